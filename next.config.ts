import type { NextConfig } from 'next'

const config: NextConfig = {
  serverExternalPackages: ['sequelize', 'mariadb'],
  // Together a third of the build time: source maps nobody reads, minified code that never leaves the server, a cache for the next build.
  experimental: { serverMinification: false, serverSourceMaps: false, turbopackSourceMaps: false, turbopackFileSystemCacheForBuild: false },
  poweredByHeader: false,
  // It is read from this machine alone: packing takes longer than sending.
  compress: false,
  reactStrictMode: true,
  devIndicators: false,
  outputFileTracingExcludes: { '*': ['**/*'] },
  typescript: { ignoreBuildErrors: true }, // bin/test and CI run the type check; a build at the first start need not repeat it
  async headers() {
    return [
      {
        source: '/:path*',
        headers: [
          // Cross-origin isolation gives the page shared memory, and with it threads.
          { key: 'Cross-Origin-Opener-Policy', value: 'same-origin' },
          { key: 'Cross-Origin-Embedder-Policy', value: 'require-corp' },
          { key: 'Cross-Origin-Resource-Policy', value: 'same-origin' },
          { key: 'X-Content-Type-Options', value: 'nosniff' },
          { key: 'X-Frame-Options', value: 'DENY' },
          { key: 'Referrer-Policy', value: 'no-referrer' },
        ],
      },
    ]
  },
}
export default config
