/** Unit and API tests: TypeScript through SWC, as ES modules. Nest's decorators need their metadata. */
const swc = [
  '@swc/jest',
  {
    jsc: { target: 'es2022', parser: { syntax: 'typescript', decorators: true }, transform: { legacyDecorator: true, decoratorMetadata: true } },
    module: { type: 'es6' },
  },
];

export default {
  testEnvironment: 'node',
  roots: ['core/src', 'host/src', 'server/src', 'workshop/src', 'cli/src', 'demo/src', 'web/src'],
  testMatch: ['**/*.test.ts'],
  extensionsToTreatAsEsm: ['.ts'],
  transform: { '^.+\\.ts$': swc },
  moduleNameMapper: {
    '^@violet-crate/(core|host|demo|server|workshop|cli)/(?!profiles/|converterThread|lightThread)(.*)$': '<rootDir>/$1/src/$2.ts',
  },
  testTimeout: 60000,
};
