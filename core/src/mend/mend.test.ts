import { seamlessClone } from '../testing/data/seamless-clone.ts'
import { dice } from '../testing/pictures.ts'
import { findSource } from './find-source.ts'
import { heal } from './heal.ts'
import { FREE, membrane, RIM } from './membrane.ts'

const [W, H] = [160, 120]
/** As seamless-clone.py draws it. */
const drawn = (x: number, y: number, k: number) =>
  Math.max(0, Math.min(255, Math.round(120 + 0.4 * x - 0.3 * y + 22 * Math.sin(x * (0.11 + 0.02 * k) + k) * Math.cos(y * 0.09 - k))))
const pixels = (w: number, h: number, code: (x: number, y: number, c: number) => number) =>
  Uint16Array.from({ length: w * h * 4 }, (_, i) => (i % 4 === 3 ? 65535 : code((i >> 2) % w, Math.floor((i >> 2) / w), i % 4) * 257))

describe('a membrane', () => {
  it('is the solution of Laplace’s equation, as elimination finds it', async () => {
    const [w, h] = [17, 13]
    const roll = dice(4)
    const kinds = new Uint8Array(w * h)
    const v = new Float32Array(w * h)
    for (let y = 0; y < h; y++)
      for (let x = 0; x < w; x++) {
        const i = y * w + x
        const inside = (x - 8) ** 2 / 49 + (y - 6) ** 2 / 20 < 1 && !(x === 8 && y === 6)
        kinds[i] = inside ? FREE : RIM
        v[i] = inside ? 0 : roll() * 60000
      }
    const free = [...kinds.keys()].filter((i) => kinds[i] === FREE)
    const place = new Map(free.map((i, k) => [i, k]))
    // Gauss and Jordan over the five-point equations: a known method, written out here
    const rows = free.map((i, k) => {
      const row = new Float64Array(free.length + 1)
      row[k] = 4
      for (const n of [i - 1, i + 1, i - w, i + w]) {
        const at = place.get(n)
        if (at === undefined) row[free.length]! += v[n]!
        else row[at]! -= 1
      }
      return row
    })
    for (let k = 0; k < rows.length; k++) {
      const pivot = rows[k]!
      const by = pivot[k]!
      for (let j = 0; j < pivot.length; j++) pivot[j]! /= by
      for (let r = 0; r < rows.length; r++) {
        const f = rows[r]![k]!
        if (r !== k && f !== 0) for (let j = 0; j < pivot.length; j++) rows[r]![j]! -= f * pivot[j]!
      }
    }
    await membrane(w, h, kinds, v)
    // of 65535: a quarter of an 8-bit step
    for (const [k, i] of free.entries()) expect(Math.abs(v[i]! - rows[k]![free.length]!)).toBeLessThan(64)
  })

  it('is given up where it is no longer wanted', async () => {
    const n = 200
    let rounds = 0
    const pause = async () => {
      if (++rounds > 5) throw new Error('stopped')
    }
    await expect(membrane(n, n, new Uint8Array(n * n).fill(FREE).fill(RIM, 0, n), new Float32Array(n * n), pause)).rejects.toThrow('stopped')
    expect(rounds).toBe(6)
  })

  it('over a large disc reaches what its rim says: a plane stays a plane', async () => {
    const n = 600
    const kinds = new Uint8Array(n * n)
    const v = new Float32Array(n * n)
    const plane = (x: number, y: number) => 20000 + 50 * x - 20 * y
    for (let y = 0, i = 0; y < n; y++)
      for (let x = 0; x < n; x++, i++) {
        const d = Math.hypot(x - 300, y - 300)
        kinds[i] = d < 280 ? FREE : d < 282 ? RIM : 0
        if (kinds[i] === RIM) v[i] = plane(x, y)
      }
    await membrane(n, n, kinds, v)
    let most = 0
    for (let i = 0; i < v.length; i++) if (kinds[i] === FREE) most = Math.max(most, Math.abs(v[i]! - plane(i % n, Math.floor(i / n))))
    expect(most).toBeLessThan(257)
  })
})

describe('healing', () => {
  // OpenCV first erodes the mask three times by 3 × 3, and holds the whole picture to its gradients, not the rim to its values: its own result is 1.7 off the exact one
  // on average, 10.5 at most
  it('is what SciPy solves within half of 255, and what OpenCV’s seamlessClone makes of it within its own tolerance', async () => {
    const there = pixels(W, H, drawn)
    const taken = pixels(W, H, (x, y, c) => drawn((x + 60) % W, y, c))
    const disc = (x: number, y: number) => Math.hypot(x - 50, y - 60) <= 22
    const corners = [-3, 3]
    await heal(W, H, taken, there, (i) => corners.every((dx) => corners.every((dy) => disc((i % W) + dx, Math.floor(i / W) + dy))))
    const off = { openCv: [] as number[], scipy: [] as number[] }
    for (const { x, y, ...theirs } of seamlessClone)
      for (const by of ['openCv', 'scipy'] as const) theirs[by].forEach((v, c) => off[by].push(Math.abs(taken[(y * W + x) * 4 + c]! / 257 - v)))
    expect(Math.max(...off.scipy)).toBeLessThan(0.5)
    expect(off.openCv.reduce((a, b) => a + b, 0) / off.openCv.length).toBeLessThan(2.2)
    expect(Math.max(...off.openCv)).toBeLessThan(11.5)
  })

  it('leaves no seam, and keeps the gradients of what was taken', async () => {
    const there = pixels(W, H, (x) => 40 + x)
    const taken = pixels(W, H, (x, y) => 190 + 10 * Math.sin(x) * Math.cos(y))
    const was = taken.slice()
    const inside = (i: number) => Math.hypot((i % W) - 70, Math.floor(i / W) - 60) <= 30
    await heal(W, H, taken, there, inside)
    const at = (px: Uint16Array, x: number, y: number) => px[(y * W + x) * 4]! / 257
    // at the rim it is what lies there but for its own texture, inside it steps as its source did, but for the slope round about
    expect(Math.abs(at(taken, 70 - 30, 60) - at(there, 70 - 30, 60))).toBeLessThan(14)
    for (let x = 60; x < 80; x++) expect(Math.abs(at(taken, x + 1, 60) - at(taken, x, 60) - 1 - (at(was, x + 1, 60) - at(was, x, 60)))).toBeLessThan(0.6)
  })

  it('with nothing round it lays what was taken as it is', async () => {
    const there = pixels(8, 8, () => 9)
    const taken = pixels(8, 8, () => 200)
    await heal(8, 8, taken, there, () => true)
    expect(taken[0]).toBe(200 * 257)
  })
})

describe('a source', () => {
  it('is found where the texture goes on as round the spot, not where it is another', () => {
    const [w, h] = [220, 160]
    const roll = dice(7)
    const grain = Float32Array.from({ length: w * h }, () => roll() * 8)
    // fine stripes above, plain below; a blot on the stripes
    const blot = (x: number, y: number) => Math.hypot(x - 110, y - 70) < 8
    const px = pixels(w, h, (x, y) => (blot(x, y) ? 20 : y < 110 ? 140 + 40 * Math.sin(y * 1.2) + grain[y * w + x]! : 60))
    const inside = Uint8Array.from({ length: w * h }, (_, i) => (Math.hypot((i % w) - 110, Math.floor(i / w) - 70) < 11 ? 1 : 0))
    const found = findSource({ w, h, px, inside })!
    // on the stripes, in step with them (their period is 5.236 pixels)
    const steps = found.dy / ((2 * Math.PI) / 1.2)
    expect(Math.abs(steps - Math.round(steps))).toBeLessThan(0.2)
    expect(70 + found.dy + 14).toBeLessThan(112)
    expect(Math.hypot(found.dx, found.dy)).toBeGreaterThan(22)
    const other = findSource({ w, h, px, inside }, [found])!
    expect(Math.hypot(other.dx - found.dx, other.dy - found.dy)).toBeGreaterThan(20)
  })

  it('is none where there is no room, or nothing to mend', () => {
    const px = pixels(20, 20, () => 100)
    expect(findSource({ w: 20, h: 20, px, inside: new Uint8Array(400).fill(1) })).toBeNull()
    expect(findSource({ w: 20, h: 20, px, inside: new Uint8Array(400) })).toBeNull()
  })
})
