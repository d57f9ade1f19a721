/** Unit, component and API tests: TypeScript through SWC, as ES modules. Nest's decorators need their metadata. Components say that they need a document. */
const swc = (tsx) => [
  '@swc/jest',
  {
    jsc: {
      target: 'es2022',
      parser: { syntax: 'typescript', decorators: true, tsx },
      transform: { legacyDecorator: true, decoratorMetadata: true, react: { runtime: 'automatic' } },
    },
    module: { type: 'es6' },
  },
];

export default {
  testEnvironment: 'node',
  roots: ['core/src', 'host/src', 'server/src', 'workshop/src', 'cli/src', 'demo/src', 'web/src'],
  testMatch: ['**/*.test.ts', '**/*.test.tsx'],
  extensionsToTreatAsEsm: ['.ts', '.tsx'],
  transform: { '^.+\\.ts$': swc(false), '^.+\\.tsx$': swc(true) },
  moduleNameMapper: {
    '\\.css$': '<rootDir>/web/src/testing/noStyles.ts',
    '^@violet-crate/(core|host|demo|server|workshop|cli)/(?!profiles/|converterThread|lightThread|trialThread)(.*)$': '<rootDir>/$1/src/$2.ts',
  },
  testTimeout: 60000,
};
