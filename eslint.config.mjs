import eslint from '@eslint/js';
import angular from 'angular-eslint';
import tseslint from 'typescript-eslint';

/** The folders in their order (docs/architecture.md): none imports from one that stands after it. Names in one line are of one height. */
const ROOMS = [
  'core/geometry', 'core/image', 'core/finish', 'core/model', 'core/camera', 'core/lamp', 'core/sky', 'core/setting', 'core/project', 'core/scene', 'core/photo', 'core/kernel',
  'core/denoise', 'core/living', 'core/render', 'core/viewing', 'core/formats', 'core/hygiene', 'core/tour', 'viewer', 'files', 'link', 'author', 'server', 'web',
]; // prettier-ignore
/** Files that read from a disk, or draw, though they stand in the core: what tests share. */
const TESTS = ['**/*.spec.ts', '**/testing.ts', '**/testing/**', 'core/kernel/furnace.ts', 'core/kernel/test-face.ts'];

function rooms() {
  return ROOMS.map((room, at) => {
    const below = ROOMS.slice(at + 1).map((name) => (name.startsWith('core/') ? `**/${name.slice(5)}/**` : `**/../${name}/**`));
    const outside = room.startsWith('core/') ? ['node:*', '@angular/*', 'express', ...(room === 'core/formats' ? [] : ['three'])] : [];
    const patterns = room.startsWith('core/') ? [...below, ...outside] : below.filter((pattern) => pattern.startsWith('**/../'));
    return {
      files: [`${room}/**/*.ts`],
      ignores: TESTS,
      rules: {
        'no-restricted-imports': [
          'error',
          { patterns: patterns.map((group) => ({ group: [group], message: `${room} stands before it: see docs/architecture.md.` })) },
        ],
      },
    };
  });
}

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
  ...rooms(),
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
