/** @type {import('next').NextConfig} */
export default {
  reactStrictMode: true,
  poweredByHeader: false,
  serverExternalPackages: ['piscina', 'pg', 'pg-boss', 'kysely'],
  devIndicators: false,
  // Types are checked beside the build by `npm test`, with the very same compiler; a start need not wait for it again.
  typescript: { ignoreBuildErrors: true },
};
