import { corners, cornersAt } from './corners.ts'

test('what lies straight between the corners of a cube is found again: a plane of colours, whatever its slopes', () => {
  const side = 4
  const cube = Float64Array.from({ length: side ** 3 }, (_, n) => 0.3 + 2 * (n % side) - 0.5 * (((n / side) | 0) % side) + 7 * ((n / side / side) | 0))
  const found = corners()
  for (const [x, y, z] of [
    [0, 0, 0],
    [3, 3, 3],
    [1.25, 0.5, 2.75],
    [2.999, 3, 0.001],
  ] as const) {
    cornersAt(side, x, y, z, found)
    expect(found.shares.reduce((a, b) => a + b, 0)).toBeCloseTo(1, 12)
    expect(found.at.every((n) => n >= 0 && n < side ** 3)).toBe(true)
    expect(found.shares.reduce((sum, share, c) => sum + share * cube[found.at[c]!]!, 0)).toBeCloseTo(0.3 + 2 * x - 0.5 * y + 7 * z, 9)
  }
})
