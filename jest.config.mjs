/** The core and the command line: much computation, nothing that is replaced. */
const bundled = {
  displayName: 'bundled',
  runner: '<rootDir>/tests/bundled-runner.mjs',
  testMatch: ['<rootDir>/tests/{core,cli}/**/*.test.ts'],
  moduleNameMapper: { '^@/(.*)$': '<rootDir>/src/$1' },
  setupFiles: ['<rootDir>/tests/bundled-setup.mjs'],
};

/** The server and what the interface stands on: modules are replaced there, file by file. */
const alone = {
  displayName: 'alone',
  testEnvironment: '<rootDir>/tests/server/support/computing-environment.mjs',
  globalSetup: '<rootDir>/tests/server/support/build-tasks.mjs',
  testMatch: ['<rootDir>/tests/{server,ui}/**/*.test.ts'],
  moduleNameMapper: {
    '^@/(.*)$': '<rootDir>/src/$1',
    '^fast-check$': '<rootDir>/tests/seeded.ts',
    // It says only where it is to be imported from, and tests require.
    '^canonicalize$': '<rootDir>/node_modules/canonicalize/lib/canonicalize.js',
  },
  transform: {
    '^.+\\.(t|j|mj)sx?$': [
      '@swc/jest',
      {
        jsc: { target: 'es2022', parser: { syntax: 'typescript', tsx: true } },
        module: { type: 'commonjs' },
      },
    ],
  },
  transformIgnorePatterns: [
    '/node_modules/(?!(@noble|three|@gltf-transform|three-mesh-bvh|property-graph|d3-hierarchy|fflate|ktx-parse|ndarray-pixels|uint8array-tools|p-limit|yocto-queue|canonicalize|flatqueue)/)',
  ],
  extensionsToTreatAsEsm: [],
  // Test files run in a context of their own, where every look at a global is a slow call: Math in a kernel's inner loop cost 30 times its time.
  sandboxInjectedGlobals: [
    'Math',
    'Number',
    'Object',
    'Array',
    'String',
    'Map',
    'Set',
    'Float32Array',
    'Float64Array',
    'Uint8Array',
    'Uint16Array',
    'Uint32Array',
    'Int32Array',
  ],
};

/** Unit tests: the core, the demo, the server and the command line. The interface is driven by Playwright. */
export default {
  projects: [bundled, alone],
  maxWorkers: '100%',
  // What files leave behind in a process makes the later ones slow: it begins anew once there is much of it.
  workerIdleMemoryLimit: '350MB',
  testTimeout: 300_000,
};
