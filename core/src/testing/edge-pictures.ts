import { dice, testPicture } from './pictures.ts'
import { rgba, type Rgba } from './kernel-run.ts'

/** Pictures that kernels go wrong on, by name: tiny, even, clear, extreme; all of 16 bits. */
export function edgePictures(): [string, Rgba][] {
  const next = dice(21)
  const extreme: Rgba = { w: 23, h: 19, v: Uint16Array.from({ length: 23 * 19 * 4 }, () => (next() < 0.5 ? 0 : 65535)) }
  const noise: Rgba = { w: 37, h: 29, v: Uint16Array.from({ length: 37 * 29 * 4 }, () => Math.floor(next() * 65536)) }
  const even: Rgba = { w: 17, h: 11, v: Uint16Array.from({ length: 17 * 11 * 4 }, (_, i) => [12593, 40092, 65535, 65535][i % 4]!) }
  const clear: Rgba = { w: 9, h: 9, v: new Uint16Array(9 * 9 * 4) }
  return [
    ['1 × 1', rgba(Uint8Array.from([200, 100, 50]), 1, 1, 3)],
    ['1 × 13', rgba(testPicture(1, 13), 1, 13, 3)],
    ['13 × 1', rgba(testPicture(13, 1), 13, 1, 3)],
    ['even', even],
    ['clear', clear],
    ['extreme values and alphas', extreme],
    ['noise of 16 bits', noise],
    ['a picture with alpha', rgba(testPicture(43, 31, 4), 43, 31, 4)],
  ]
}

/** Premultiplied samples 0…1. */
export function premultipliedOf({ v }: Rgba): Float64Array {
  return Float64Array.from(v, (s, i) => (i % 4 === 3 ? s : (s * v[i - (i % 4) + 3]!) / 65535) / 65535)
}

/** Reads a sample of a picture whose border is repeated. */
export const reader =
  (p: ArrayLike<number>, w: number, h: number) =>
  (x: number, y: number, c: number): number =>
    p[((y < 0 ? 0 : y >= h ? h - 1 : y) * w + (x < 0 ? 0 : x >= w ? w - 1 : x)) * 4 + c]!

/** Straight 16-bit samples from premultiplied 0…1, not rounded. */
export function straightOf(p: Float64Array): Float64Array {
  return p.map((s, i) => {
    const a = p[i - (i % 4) + 3]!
    return i % 4 === 3 ? s * 65535 : a > 0 ? Math.min(65535, (s / a) * 65535) : 0
  })
}
