// Jest begins with the tests that take minutes, so that at the end no worker waits for one of them.
const Sequencer = require('@jest/test-sequencer').default

const LONG = [
  'engine/looks.test.ts',
  'engine/fidelity.test.ts',
  'engine/engine.test.ts',
  'testing/golden.test.ts',
  'recipes/recipes.test.ts',
  'paint/painted-steps.test.ts',
  'steps/needs.test.ts',
  'line/line-steps-1.test.ts',
  'line/line-steps.test.ts',
  'engine/growth.test.ts',
  'engine/random.test.ts',
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
