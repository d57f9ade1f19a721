import js from '@eslint/js';
import hooks from 'eslint-plugin-react-hooks';
import ts from 'typescript-eslint';

const node = {
  process: 'readonly',
  console: 'readonly',
  URL: 'readonly',
  TextEncoder: 'readonly',
  TextDecoder: 'readonly',
  fetch: 'readonly',
  setTimeout: 'readonly',
  clearTimeout: 'readonly',
  Buffer: 'readonly',
  performance: 'readonly',
  FormData: 'readonly',
  File: 'readonly',
  AbortSignal: 'readonly',
};

export default ts.config(
  { ignores: ['**/dist/**', '**/node_modules/**', 'data/**', 'test-results/**', 'playwright-report/**', '**/drizzle/**', '.mutate/**'] },
  js.configs.recommended,
  ...ts.configs.recommended,
  { files: ['**/*.mjs'], languageOptions: { globals: node } },
  {
    rules: {
      '@typescript-eslint/no-unused-vars': ['error', { argsIgnorePattern: '^_', varsIgnorePattern: '^_' }],
      '@typescript-eslint/consistent-type-imports': ['error', { disallowTypeAnnotations: false }],
      'no-restricted-imports': [
        'error',
        { patterns: [{ regex: '/(utils|helpers|manager)(\\.|$)', message: 'One file, one idea, named after it.' }] },
      ],
      eqeqeq: 'error',
      // Ids and names come from users and files: `in` finds "constructor" in any object. Words of ours may be asked for.
      'no-restricted-syntax': [
        'error',
        { selector: "BinaryExpression[operator='in'][left.type!='Literal']", message: 'Use Object.hasOwn, or own() from core/src/own.ts.' },
      ],
      'no-control-regex': 'off',
    },
  },
  {
    // The core computes: it knows no files, no servers and no screens.
    files: ['core/src/**/*.ts'],
    ignores: ['**/*.test.ts', 'core/src/testing/**'],
    rules: {
      'no-restricted-imports': [
        'error',
        { patterns: [{ regex: '^(node:|react|@nestjs|fs$)', message: 'core has no file system, server or screen.' }] },
      ],
      'no-restricted-globals': [
        'error',
        ...['fetch', 'Buffer', 'process', 'window', 'document', 'navigator', 'location', 'localStorage', 'DOMParser', 'globalThis', 'self'].map(
          (name) => ({ name, message: 'core computes: servers, pages and Node.js are its callers’.' }),
        ),
        { name: 'console', message: 'core answers with findings; libraries that print are run by asset/hushed.ts.' },
      ],
    },
  },
  // The adapters that lend and take back what libraries reach for, each in a file of its own.
  {
    files: ['core/src/asset/hushed.ts', 'core/src/asset/mesh/read/lendBrowser.ts'],
    rules: { 'no-restricted-globals': 'off' },
  },
  // Nest reads constructor types at run time, so its imports are values even where they look like types.
  { files: ['server/src/**/*.ts', 'workshop/src/**/*.ts'], rules: { '@typescript-eslint/consistent-type-imports': 'off' } },
  {
    files: ['web/src/**/*.{ts,tsx}'],
    plugins: { 'react-hooks': hooks },
    rules: { 'react-hooks/rules-of-hooks': 'error', 'react-hooks/exhaustive-deps': 'error' },
  },
);
