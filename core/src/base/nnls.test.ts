import { nnlsCases } from '../testing/data/nnls.ts'
import { nnls } from './nnls.ts'

const left = (a: number[][], b: number[], x: ArrayLike<number>) =>
  Math.sqrt(a.reduce((s, row, r) => s + (row.reduce((t, v, i) => t + v * x[i]!, 0) - b[r]!) ** 2, 0))

test.each(nnlsCases.map((c, i) => [i, c] as const))('case %i of scipy’s: nothing below 0, and as near', (_, { a, b, x: theirs, left: over }) => {
  const n = theirs.length
  const x = nnls(a.flat(), b, n)
  expect(Math.min(...x)).toBeGreaterThanOrEqual(0)
  // what is left over is one number; the x is not where there are more unknowns than rows
  expect(left(a, b, x)).toBeCloseTo(over, 6)
  if (n <= b.length) theirs.forEach((v, i) => expect(x[i]).toBeCloseTo(v, 6))
})

test('nothing to be reached is nothing taken', () => {
  expect([...nnls([1, 2, 3, 4], [0, 0], 2)]).toEqual([0, 0])
  expect([...nnls([1, 2, 3, 4], [-1, -1], 2)]).toEqual([0, 0])
  expect([...nnls([0, 0], [1, 1], 1)]).toEqual([0])
})
