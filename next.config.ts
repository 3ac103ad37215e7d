import type { NextConfig } from 'next';

const config: NextConfig = {
  poweredByHeader: false,
  agentRules: false,
  // Titles come with their page. Were they streamed after it, a page would have none for a moment,
  // and a screen reader would be told its first heading instead.
  htmlLimitedBots: /.*/,
  serverExternalPackages: [
    'better-sqlite3',
    'selfsigned',
    'drizzle-orm',
    'zod',
    'htmlparser2',
    'entities',
    'iconv-lite',
  ],
  // Each route holds a copy of what it needs: those that are never asked for are not loaded.
  experimental: { preloadEntriesOnStart: false },
  headers: async () => [
    {
      source: '/api/:path*',
      headers: [
        { key: 'Content-Security-Policy', value: "default-src 'none'; frame-ancestors 'none'" },
        { key: 'X-Content-Type-Options', value: 'nosniff' },
      ],
    },
  ],
};

export default config;
