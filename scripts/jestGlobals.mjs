/**
 * Given to Node.js by `--import`: lets tests that run without a context of Jest's import `@jest/globals`, which
 * throws there. What it names are the globals that the runner has set.
 */
import { register } from 'node:module';

const globals = 'export const { afterAll, afterEach, beforeAll, beforeEach, describe, expect, it, jest, test } = globalThis;';
const url = `data:text/javascript,${encodeURIComponent(globals)}`;
const hook = `export const resolve = (name, context, next) =>
  name === '@jest/globals' ? { url: '${url}', shortCircuit: true } : next(name, context);`;
register(`data:text/javascript,${encodeURIComponent(hook)}`);
