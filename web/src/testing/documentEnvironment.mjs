/* global structuredClone, Response */
/** A document for component tests, with what every browser has and jsdom leaves out. */
import { TestEnvironment } from 'jest-environment-jsdom';

export default class extends TestEnvironment {
  async setup() {
    await super.setup();
    Object.assign(this.global, { TextEncoder, TextDecoder, structuredClone, Response });
  }
}
