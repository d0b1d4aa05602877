/** Unit tests: the core, the demo, the server and the command line. The interface is driven by Playwright. */
export default {
  testEnvironment: 'node',
  testMatch: ['<rootDir>/tests/{core,server,cli}/**/*.test.ts'],
  moduleNameMapper: { '^@/(.*)$': '<rootDir>/src/$1' },
  transform: { '^.+\\.(t|j|mj)sx?$': ['@swc/jest', { jsc: { target: 'es2022', parser: { syntax: 'typescript', tsx: true } }, module: { type: 'commonjs' } }] },
  transformIgnorePatterns: ['/node_modules/(?!(@noble|three|@gltf-transform|three-mesh-bvh|property-graph|fflate|ktx-parse|ndarray-pixels|uint8array-tools|fast-png|iobuffer)/)'],
  extensionsToTreatAsEsm: [],
  testTimeout: 120_000,
};
