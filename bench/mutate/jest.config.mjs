/** The tests of the core alone. */
import config from '../../jest.config.mjs';

export default { ...config, rootDir: '../..', roots: ['<rootDir>/core/src'] };
