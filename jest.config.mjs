/**
 * Unit, component and API tests, as ES modules. What needs no document runs in plain Node.js as `tsc` wrote it: a context
 * of its own for each file took half of the time. Components run in contexts with a document, compiled by SWC.
 */
const swc = (tsx) => [
  '@swc/jest',
  {
    jsc: {
      target: 'es2022',
      parser: { syntax: 'typescript', tsx },
      transform: { react: { runtime: 'automatic' } },
      experimental: { keepImportAttributes: true },
    },
    module: { type: 'es6' },
  },
];

/** Tests in contexts of Jest's, straight from source. Components say that they need a document. */
export const fromSource = {
  testMatch: ['**/*.test.ts', '**/*.test.tsx'],
  extensionsToTreatAsEsm: ['.ts', '.tsx'],
  transform: { '^.+\\.ts$': swc(false), '^.+\\.tsx$': swc(true) },
  moduleNameMapper: {
    '\\.css$': '<rootDir>/web/src/testing/noStyles.ts',
    '^@violet-crate/(core|host|demo|server|workshop|cli)/(?!profiles/|converterThread|lightThread|trialThread)(.*)$': '<rootDir>/$1/src/$2.ts',
  },
};

export default {
  projects: [
    {
      displayName: 'node',
      runner: 'jest-light-runner',
      roots: ['core/dist', 'host/dist', 'server/dist', 'workshop/dist', 'cli/dist', 'demo/dist'],
      testMatch: ['**/*.test.js'],
      transform: {},
    },
    { displayName: 'web', roots: ['web/src'], ...fromSource },
  ],
  testTimeout: 60000,
};
