import { richestSpot } from './look-spot.ts'

test('the spot is found where the detail is, and in the middle where there is none', () => {
  const [w, h] = [160, 100]
  const flat = new Uint8Array(w * h).fill(90)
  expect(richestSpot(flat, w, h).x).toBeCloseTo(0.5, 1)
  const one = flat.slice()
  for (let y = 60; y < 72; y++) for (let x = 110; x < 124; x++) one[y * w + x] = (x + y) % 2 ? 255 : 0
  const spot = richestSpot(one, w, h)
  expect(Math.abs(spot.x * w - 117)).toBeLessThan(12)
  expect(Math.abs(spot.y * h - 66)).toBeLessThan(12)
  expect(richestSpot(Uint8Array.of(7), 1, 1)).toEqual({ x: 0.5, y: 0.5 })
})
