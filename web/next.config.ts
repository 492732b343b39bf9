import path from 'node:path'
import type { NextConfig } from 'next'

const config: NextConfig = {
  transpilePackages: ['@tender-lasso/core', '@tender-lasso/formats', '@tender-lasso/server'],
  serverExternalPackages: [
    '@mikro-orm/core',
    '@mikro-orm/postgresql',
    '@mikro-orm/knex',
    '@mikro-orm/migrations',
    'knex',
    'pg',
    'pino',
    'piscina',
    'sharp',
    '@tus/server',
    '@tus/file-store',
  ],
  turbopack: { root: path.resolve(import.meta.dirname, '..') },
  // The server listens on loopback: compressing takes longer than it saves. A proxy in front of it compresses itself.
  compress: false,
  poweredByHeader: false,
  devIndicators: false,
  typescript: { ignoreBuildErrors: true },
}

export default config
