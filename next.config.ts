import type { NextConfig } from 'next';

const config: NextConfig = {
  reactStrictMode: true,
  // A component renders again only where what it was given has changed; one that cannot be compiled to do so fails the build.
  reactCompiler: { panicThreshold: 'all_errors' },
  poweredByHeader: false,
  // Types are checked by a command of their own, tests included.
  typescript: { ignoreBuildErrors: true },
  compiler: { styledComponents: true },
  // The page is in English, and needs what the library of controls says in no other language.
  turbopack: {
    rules: {
      '*.mjs': {
        condition: { path: /react-aria[^/]*\/dist\/private\/intl\/.*\/(?!en-US)[a-z]{2}-[A-Z]{2}\.mjs$/ },
        loaders: ['./scripts/no-words.cjs'],
      },
    },
  },
  serverExternalPackages: ['@libsql/client', 'libsql', 'piscina', 'pino'],
  headers: async () => [
    {
      source: '/:path*',
      headers: [
        { key: 'Cross-Origin-Opener-Policy', value: 'same-origin' },
        { key: 'Cross-Origin-Embedder-Policy', value: 'require-corp' },
        { key: 'Cross-Origin-Resource-Policy', value: 'same-origin' },
        { key: 'X-Content-Type-Options', value: 'nosniff' },
        { key: 'X-Frame-Options', value: 'DENY' },
        { key: 'Referrer-Policy', value: 'no-referrer' },
        { key: 'Permissions-Policy', value: 'camera=(), microphone=(), geolocation=()' },
      ],
    },
  ],
};

export default config;
