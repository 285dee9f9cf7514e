import eslint from '@eslint/js';
import angular from 'angular-eslint';
import tseslint from 'typescript-eslint';

export default tseslint.config(
  { ignores: ['dist/', 'node_modules/', '.angular/', 'core/kernel/assembly/', 'author/page/', 'coverage/'] },
  eslint.configs.recommended,
  {
    files: ['**/*.ts'],
    extends: [...tseslint.configs.strictTypeChecked],
    languageOptions: { parserOptions: { project: ['tsconfig.json', 'web/tsconfig.app.json'], tsconfigRootDir: import.meta.dirname } },
    rules: {
      // Indices are checked by noUncheckedIndexedAccess; where the bounds are plain to see, "!" says so.
      '@typescript-eslint/no-non-null-assertion': 'off',
      '@typescript-eslint/no-unnecessary-condition': 'off',
      '@typescript-eslint/restrict-template-expressions': ['error', { allowNumber: true }],
      '@typescript-eslint/no-extraneous-class': ['error', { allowWithDecorator: true }],
      '@typescript-eslint/no-unused-vars': ['error', { argsIgnorePattern: '^_' }],
    },
  },
  { files: ['web/**/*.ts'], extends: [...angular.configs.tsRecommended], processor: angular.processInlineTemplates },
  {
    files: ['web/**/*.html'],
    extends: [...angular.configs.templateRecommended],
  },
  // The boundary rule: the core knows nobody.
  {
    files: ['core/**/*.ts'],
    ignores: ['**/*.spec.ts', 'core/kernel/testing.ts', 'core/denoise/testing.ts'],
    rules: {
      'no-restricted-imports': [
        'error',
        { patterns: ['**/server/**', '**/web/**', '**/author/**', 'node:*', '@angular/*', 'express', 'three'] },
      ],
    },
  },
  // Three's parsers of model files draw nothing.
  {
    files: ['core/formats/*.ts'],
    ignores: ['**/*.spec.ts'],
    rules: {
      'no-restricted-imports': ['error', { patterns: ['**/server/**', '**/web/**', '**/author/**', 'node:*', '@angular/*', 'express'] }],
    },
  },
  {
    files: ['**/*.mjs'],
    languageOptions: {
      globals: {
        process: 'readonly',
        console: 'readonly',
        URL: 'readonly',
        setTimeout: 'readonly',
        clearTimeout: 'readonly',
        fetch: 'readonly',
      },
    },
  },
);
