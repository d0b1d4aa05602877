/** @type {import('next').NextConfig} */
export default {
  reactStrictMode: true,
  poweredByHeader: false,
  serverExternalPackages: ['piscina', 'pg', 'pg-boss', 'kysely'],
  devIndicators: false,
};
