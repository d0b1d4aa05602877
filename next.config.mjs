/** @type {import('next').NextConfig} */
export default {
  reactStrictMode: true,
  poweredByHeader: false,
  serverExternalPackages: ['piscina', 'pg', 'kysely'],
  devIndicators: false,
  async headers() {
    return [{ source: '/(.*)', headers: [{ key: 'x-frame-options', value: 'DENY' }, { key: 'referrer-policy', value: 'same-origin' }, { key: 'x-content-type-options', value: 'nosniff' }] }];
  },
};
