// Jest begins with the tests that take minutes, so that at the end no worker waits for one of them.
const Sequencer = require('@jest/test-sequencer').default

const LONG = [
  'engine/fidelity.test.ts',
  'testing/golden.test.ts',
  'engine/looks.test.ts',
  'engine/engine.test.ts',
  'recipes/recipes.test.ts',
  'paint/painted-costs.test.ts',
  'line/line-steps.test.ts',
  'engine/random.test.ts',
  'engine/painting.test.ts',
  'engine/small-sheet.test.ts',
  'engine/growth.test.ts',
  'engine/plans.test.ts',
  'paint/painted-steps.test.ts',
  'demo/seed.test.ts',
  'kernels/gradient-kernels.test.ts',
  'cli/src/main.test.ts',
]
const rank = ({ path }) => {
  const at = LONG.findIndex((name) => path.endsWith(name))
  return at < 0 ? LONG.length : at
}

module.exports = class extends Sequencer {
  sort(tests) {
    return [...super.sort(tests)].sort((a, b) => rank(a) - rank(b))
  }
}
