import js from '@eslint/js';
import globals from 'globals';
import hooks from 'eslint-plugin-react-hooks';
import ts from 'typescript-eslint';

export default ts.config(
  { ignores: ['**/dist/**', 'data/**', 'node_modules/**', '.cache/**'] },
  js.configs.recommended,
  ...ts.configs.strict,
  {
    rules: {
      '@typescript-eslint/no-unused-vars': [
        'error',
        { argsIgnorePattern: '^_', varsIgnorePattern: '^_', ignoreRestSiblings: true },
      ],
      '@typescript-eslint/no-invalid-void-type': 'off',
      '@typescript-eslint/consistent-type-imports': [
        'error',
        { prefer: 'type-imports', disallowTypeAnnotations: false },
      ],
      eqeqeq: 'error',
      'no-console': 'error',
    },
  },
  {
    // A promise that nobody waits for ends the process when it fails, so none may be left alone.
    files: ['*/src/**/*.{ts,tsx}'],
    // One program for all of them: with one each, what all stand on is read and checked six times.
    languageOptions: {
      parserOptions: { project: './tsconfig.lint.json', tsconfigRootDir: import.meta.dirname },
    },
    rules: {
      '@typescript-eslint/no-floating-promises': ['error', { ignoreVoid: false }],
      '@typescript-eslint/no-misused-promises': 'error',
    },
  },
  {
    // Asking the API never rejects there: what went wrong is in the answer.
    files: ['web/src/**/*.{ts,tsx}'],
    rules: { '@typescript-eslint/no-floating-promises': ['error', { ignoreVoid: true }] },
  },
  {
    files: ['core/src/**'],
    rules: {
      'no-restricted-globals': ['error', 'fetch', 'setTimeout', 'setInterval', 'process'],
      'no-restricted-properties': [
        'error',
        { object: 'Date', property: 'now' },
        { object: 'Math', property: 'random' },
      ],
    },
  },
  {
    files: ['web/src/**/*.{ts,tsx}'],
    plugins: { 'react-hooks': hooks },
    rules: { ...hooks.configs.recommended.rules },
    languageOptions: { globals: globals.browser },
  },
  {
    files: ['scripts/**', 'bench/**', '**/*.cjs', '*.js'],
    languageOptions: { globals: globals.node },
    rules: { 'no-console': 'off' },
  },
  {
    // Preloaded into a server under test, before any module system of ours runs.
    files: ['**/*.cjs'],
    rules: { '@typescript-eslint/no-require-imports': 'off' },
  },
);
