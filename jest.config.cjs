// Everything is compiled to CommonJS by swc, ESM-only packages too: Jest's own ESM mode does not take Nest and its companions.
const esm = ['clipper2-ts', '@nestjs', '@nimble-quill', '@noble', 'immer', 'idb-keyval', 'react-hotkeys-hook', 'umzug', 'redux', '@reduxjs', 'emittery']
const swc = [
  '@swc/jest',
  {
    module: { type: 'commonjs' },
    jsc: {
      target: 'es2022',
      parser: { syntax: 'typescript', tsx: true, decorators: true },
      transform: { legacyDecorator: true, decoratorMetadata: true, react: { runtime: 'automatic' } },
      keepClassNames: true,
    },
  },
]
const common = {
  rootDir: __dirname,
  transform: { '^.+\\.(t|j|mj)sx?$': swc },
  transformIgnorePatterns: [`/node_modules/(?!(?:${esm.join('|')})(?:/|$))`],
  moduleNameMapper: {
    '^@nimble-quill/core$': '<rootDir>/core/src/index.ts',
    '^@nimble-quill/core/node$': '<rootDir>/core/src/kernels/load-node.ts',
    '^@nimble-quill/contracts$': '<rootDir>/contracts/src/index.ts',
    '^@nimble-quill/server/decoding$': '<rootDir>/server/src/photos/decoding.ts',
    '^@nimble-quill/server/rendering$': '<rootDir>/server/src/renders/rendering.ts',
    '\\.css$': '<rootDir>/web/test/empty.cjs',
  },
}
/** Tests of the server that go by the clock, or count what the machine does: they have it to themselves. */
const byTheClock = ['/server/src/drills/.*\\.test\\.ts$', '/server/src/workers/pool\\.test\\.ts$', '/server/src/renders/.*\\.test\\.ts$']

module.exports = {
  testTimeout: 180000,
  testSequencer: '<rootDir>/scripts/long-tests-first.cjs',
  projects: [
    {
      ...common,
      displayName: 'core',
      testEnvironment: '<rootDir>/scripts/test-environment.cjs',
      testMatch: ['<rootDir>/core/src/**/*.test.ts', '<rootDir>/contracts/src/**/*.test.ts'],
    },
    {
      ...common,
      displayName: 'server',
      testEnvironment: 'node',
      testMatch: ['<rootDir>/server/src/**/*.test.ts', '<rootDir>/cli/src/**/*.test.ts'],
      testPathIgnorePatterns: ['/node_modules/', ...byTheClock],
    },
    { ...common, displayName: 'clock', testEnvironment: 'node', testRegex: byTheClock },
    {
      ...common,
      displayName: 'web',
      testEnvironment: 'jsdom',
      testMatch: ['<rootDir>/web/src/**/*.test.{ts,tsx}'],
      setupFiles: ['<rootDir>/web/test/setup.cjs'],
    },
  ],
}
