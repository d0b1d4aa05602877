/** @type {import('next').NextConfig} */
export default {
  reactStrictMode: true,
  poweredByHeader: false,
  serverExternalPackages: ['piscina', 'pg', 'kysely'],
  devIndicators: false,
};
