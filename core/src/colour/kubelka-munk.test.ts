import { endless, layerOf, overGround } from './kubelka-munk.ts'

// K/S of reflectances as tables of the trade print them, (1 − R)² / 2R (Kubelka and Munk 1931; ISO 9416 goes by the same)
test.each([
  [0.05, 9.025],
  [0.1, 4.05],
  [0.2, 1.6],
  [0.25, 1.125],
  [0.5, 0.25],
  [0.8, 0.025],
])('an endless layer that reflects %d has K/S %d', (r, ks) => {
  expect(endless(ks, 1)).toBeCloseTo(r, 10)
})

test('a layer grows to the endless one as it thickens, whatever lies below', () => {
  const thick = layerOf(40 * 1.6, 40, Math.exp)
  expect(thick.r).toBeCloseTo(0.2, 8)
  expect(overGround(thick, 1)).toBeCloseTo(0.2, 8)
})

test('two half layers are one whole (Kubelka 1948: R = R1 + T1² R2 / (1 − R1 R2))', () => {
  for (const [k, s] of [
    [0.22, 0.05],
    [1.5, 0.21],
    [0.1, 0.97],
    [3.45, 0.007],
  ] as const) {
    const whole = layerOf(k, s, Math.exp)
    const half = layerOf(k / 2, s / 2, Math.exp)
    expect(overGround(half, half.r)).toBeCloseTo(whole.r, 10)
    expect((half.t * half.t) / (1 - half.r * half.r)).toBeCloseTo(whole.t, 10)
  }
})

test('without scattering light is lost by Bouguer’s law, without absorption none is', () => {
  expect(layerOf(1.2, 0, Math.exp)).toEqual({ r: 0, t: Math.exp(-1.2) })
  const clear = layerOf(0, 0.7, Math.exp)
  expect(clear.r + clear.t).toBeCloseTo(1, 12)
  // between the limits nothing jumps
  expect(layerOf(1.2, 1.1e-6, Math.exp).t).toBeCloseTo(Math.exp(-1.2), 5)
  expect(layerOf(1.1e-9, 0.7, Math.exp).r).toBeCloseTo(0.7 / 1.7, 4)
})
