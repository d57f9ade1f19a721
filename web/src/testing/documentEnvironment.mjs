/* global structuredClone, Response */
/** A document for component tests, with what every browser has and jsdom leaves out. */
import { TestEnvironment } from 'jest-environment-jsdom';

/** Nothing is laid out in jsdom: every element is this large, and says so once. */
const SIZE = { width: 800, height: 600 };

export default class extends TestEnvironment {
  async setup() {
    await super.setup();
    const { global } = this;
    class ResizeObserver {
      constructor(told) {
        this.told = told;
      }
      observe(target) {
        this.told([{ target, contentRect: { ...SIZE } }], this);
      }
      unobserve() {}
      disconnect() {}
    }
    /** What the router makes of each step; Node's own takes no signals of jsdom's. */
    class Request {
      constructor(url, { signal, method = 'GET' } = {}) {
        Object.assign(this, { url: String(url), signal, method });
      }
    }
    Object.assign(global, { TextEncoder, TextDecoder, structuredClone, Request, Response, ResizeObserver });
    for (const [key, value] of [
      ['clientWidth', SIZE.width],
      ['clientHeight', SIZE.height],
    ])
      Object.defineProperty(global.Element.prototype, key, { configurable: true, get: () => value });
    global.Element.prototype.scrollTo = () => {};
    global.Range.prototype.getClientRects = () => [];
    global.Blob.prototype.text = function () {
      return new Promise((done) => {
        const reader = new global.FileReader();
        reader.onload = () => done(reader.result);
        reader.readAsText(this);
      });
    };
  }
}
