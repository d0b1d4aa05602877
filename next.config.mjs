/** @type {import('next').NextConfig} */
export default {
  reactStrictMode: true,
  poweredByHeader: false,
  serverExternalPackages: ['piscina', 'pg', 'kysely'],
  devIndicators: false,
  // What is brought in passes the proxy, which cuts bodies at 10 MB unless told otherwise; the routes keep the real limit (BOUGH_UPLOAD_BYTES).
  experimental: { proxyClientMaxBodySize: '4gb' },
  async headers() {
    return [
      {
        source: '/(.*)',
        headers: [
          { key: 'x-frame-options', value: 'DENY' },
          { key: 'referrer-policy', value: 'same-origin' },
          { key: 'x-content-type-options', value: 'nosniff' },
        ],
      },
    ];
  },
};
