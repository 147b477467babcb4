import { openCv } from '../testing/opencv.ts'
import { dice } from '../testing/pictures.ts'
import { alike } from './like.ts'

const [W, H] = [97, 71]
/** Soft hills with some grain: areas that bend, with holes and islands. */
function hills(seed: number): Uint8Array {
  const roll = dice(seed)
  const waves = Array.from({ length: 5 }, () => [roll() * 0.2, roll() * 0.2, roll() * 6, 20 + roll() * 25] as const)
  return Uint8Array.from({ length: W * H }, (_, i) => {
    const [x, y] = [i % W, Math.floor(i / W)]
    const v = waves.reduce((sum, [a, b, p, m]) => sum + m * Math.sin(a * x + b * y + p), 128) + (roll() - 0.5) * 14
    return Math.max(0, Math.min(255, Math.round(v)))
  })
}

describe('what is like a place', () => {
  // OpenCV: floodFill over four neighbours with a fixed range (Bradski 2000), a general-purpose library
  it.each([1, 2, 3, 4])('as far as it hangs together, is what OpenCV fills (picture %i)', async (seed) => {
    const { cv } = await openCv()
    const picture = hills(seed)
    const roll = dice(seed + 50)
    for (const within of [6, 18, 40]) {
      const at = { x: Math.floor(roll() * W), y: Math.floor(roll() * H) }
      const image = cv.matFromArray(H, W, cv.CV_8UC1, picture)
      const mask = cv.matFromArray(H + 2, W + 2, cv.CV_8UC1, new Uint8Array((W + 2) * (H + 2)))
      const range = new cv.Scalar(within)
      // four neighbours, 255 into the mask; a fixed range, the mask only
      cv.floodFill(image, mask, new cv.Point(at.x, at.y), new cv.Scalar(0), new cv.Rect(0, 0, 0, 0), range, range, 4 | (255 << 8) | 0x10000 | 0x20000)
      const filled = Uint8Array.from({ length: W * H }, (_, i) => mask.data[(Math.floor(i / W) + 1) * (W + 2) + (i % W) + 1]!)
      image.delete()
      mask.delete()
      const tone = picture[at.y * W + at.x]!
      const unlike = Uint16Array.from(picture, (v) => Math.abs(v - tone) * 257)
      const found = alike({ w: W, h: H, unlike, change: null }, { within: within * 257, soft: 0, from: at, edge: 0 })
      let off = 0
      for (let i = 0; i < found.length; i++) if (found[i]! > 0 !== filled[i]! > 0) off++
      expect(off).toBe(0)
      expect(found.some((v) => v === 0) && found.some((v) => v === 65535)).toBe(true)
    }
  })

  it('everywhere at once, is what a brute force finds, and runs out over its soft bound', () => {
    const unlike = Uint16Array.from(hills(9), (v) => v * 100)
    const found = alike({ w: W, h: H, unlike, change: null }, { within: 9000, soft: 3000, from: null, edge: 0 })
    const off = [...unlike].filter((v, i) => Math.abs(found[i]! - (v <= 9000 ? 65535 : v >= 12000 ? 0 : (65535 * (12000 - v)) / 3000)) > 0.51).length
    expect(off).toBe(0)
  })

  it('does not go over an edge that stands in its way, but joins the edge itself', () => {
    const change = new Uint8Array(W * H)
    // a wall of two pixels down the middle
    for (let y = 0; y < H; y++) for (const x of [48, 49]) change[y * W + x] = 100
    const all = { w: W, h: H, unlike: new Uint16Array(W * H) }
    const reach = { within: 10, soft: 0, from: { x: 3, y: 3 }, edge: 14 }
    const held = alike({ ...all, change }, reach)
    expect([0, 47, 48, 49].map((x) => held[20 * W + x])).toEqual([65535, 65535, 65535, 65535])
    expect(held[20 * W + 51]).toBe(0)
    expect(alike({ ...all, change: null }, reach)[20 * W + 80]).toBe(65535)
  })

  it('grows in proportion to the pixels, however it winds', () => {
    // a spiral of one pixel's breadth takes as many spans as it has turns, not as many as it has pixels squared
    const n = 400
    const unlike = new Uint16Array(n * n).fill(9)
    for (let y = 0; y < n; y += 2) for (let x = 0; x < n; x++) unlike[y * n + x] = 0
    for (let y = 1; y < n; y += 2) unlike[y * n + ((y >> 1) % 2 ? 0 : n - 1)] = 0
    const found = alike({ w: n, h: n, unlike, change: null }, { within: 1, soft: 0, from: { x: 0, y: 0 }, edge: 0 })
    expect(found.filter((v) => v > 0).length).toBe((n / 2) * n + n / 2)
  })
})
