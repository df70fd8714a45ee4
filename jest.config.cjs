/** Unit tests beside the code; the interface is tested in e2e/ by Playwright. */
process.env.ORVID_LOG ??= 'silent';

const PACKAGES_OF_MANY_FILES = '/node_modules/(zod/index|react-aria(-components)?/dist/exports/index)\\.cjs$';

module.exports = {
  testEnvironment: 'node',
  testMatch: ['<rootDir>/{app,audio,cli,core,demo,server,ui,workers,scripts}/**/*.test.{ts,tsx}'],
  moduleNameMapper: { '^@/(.*)$': '<rootDir>/$1' },
  modulePathIgnorePatterns: ['<rootDir>/.next', '<rootDir>/build', '<rootDir>/.orvid'],
  transform: {
    [PACKAGES_OF_MANY_FILES]: '<rootDir>/scripts/jest-package.cjs',
    '^.+\\.(tsx?|m?js)$': [
      '@swc/jest',
      {
        jsc: {
          parser: { syntax: 'typescript', tsx: true },
          target: 'es2022',
          transform: { react: { runtime: 'automatic' } },
        },
      },
    ],
  },
  transformIgnorePatterns: [
    '/node_modules/(?!(zod/index\\.cjs|react-aria(-components)?/dist/exports/index\\.cjs|(nanoid|d3-[a-z-]+|internmap|@wasm-audio-decoders|@eshaz|mpg123-decoder|ogg-opus-decoder|opus-decoder|codec-parser|simple-yenc)/))',
  ],
  // What the computation names in its inner loops: looked up in the sandbox each of them costs twenty times as much.
  sandboxInjectedGlobals: ['Math', 'Float32Array', 'Float64Array', 'Int32Array', 'Uint8Array'],
  testTimeout: 60000,
  maxWorkers: '100%',
};
