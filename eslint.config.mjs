import reactHooks from 'eslint-plugin-react-hooks';
import readsInRender from './scripts/reads-in-render.mjs';
import tseslint from 'typescript-eslint';

/** Given the desk while something renders: made once for it, read again by a count of measurements, or as it is while it is seen. */
const READ_ONCE = ['crosshairHandlers', 'mixLufsNow', 'readPhrase', 'sideNames', 'stripView', 'uploadsOf'];

export default tseslint.config(
  {
    ignores: [
      'node_modules',
      '.next',
      'build',
      '.orvid',
      'public/audio',
      'core/engine/kernel/assembly',
      'core/measure/kernel/assembly',
      'core/engine/packing/assembly',
      'core/processors/kernel/assembly',
      'core/resample/kernel/assembly',
      'next-env.d.ts',
      'test-results',
      'playwright-report',
    ],
  },
  ...tseslint.configs.recommended,
  { files: ['**/*.cjs'], rules: { '@typescript-eslint/no-require-imports': 'off' } },
  {
    files: ['ui/**/*.{ts,tsx}', 'app/**/*.tsx'],
    plugins: { 'react-hooks': reactHooks },
    rules: reactHooks.configs.recommended.rules,
  },
  {
    files: ['ui/**/*.{ts,tsx}'],
    ignores: ['**/*.test.*'],
    plugins: { orvid: { rules: { 'reads-in-render': readsInRender } } },
    rules: { 'orvid/reads-in-render': ['error', { except: READ_ONCE }] },
  },
  {
    files: ['ui/**/*.{ts,tsx}'],
    ignores: ['ui/kit/storage/*', '**/*.test.*'],
    // A browser may block it or have no room: ui/kit/storage knows.
    rules: { 'no-restricted-globals': ['error', 'localStorage', 'sessionStorage'] },
  },
  {
    rules: {
      '@typescript-eslint/no-unused-vars': ['error', { argsIgnorePattern: '^_', varsIgnorePattern: '^_' }],
      eqeqeq: 'error',
      'no-console': 'off',
      'prefer-const': 'error',
    },
  },
);
