import { artworkFromPhoto, mapped, moved, newLayer, perform, scaled, times, turned, type Artwork, type Layer, type Matrix } from '@nimble-quill/core'
import { groundOf } from '../sheet/ground-colour.ts'
import { marksOf } from '../picture/Rulers.tsx'
import { linesFor, onSheet, placeCommand, placingOf } from './use-placing.ts'

const photo = { type: 'photo', asset: 'a'.repeat(64), width: 300, height: 200 } as const
const layer = (id: string, matrix: Matrix, source: Layer['source'] = photo): Layer => ({
  ...newLayer(id, source, [], id),
  placement: { matrix: [...matrix], pivot: null },
})
const artwork = (layers: Layer[]): Artwork => ({ ...artworkFromPhoto({ asset: photo.asset, width: 300, height: 200, title: 't' }), layers })

test('one layer is placed in its own pixels, in a placed group too: its corners are where they are on the sheet', () => {
  const group = layer('g', times(moved(50, 20), scaled(0.5)), { type: 'group', isolated: true, layers: [layer('in', times(moved(10, 30), turned(90)))] })
  const placing = placingOf(artwork([group]), ['in'])!
  expect(placing.corners!.map(({ x, y }) => [Math.round(x), Math.round(y)])).toEqual([
    [55, 35],
    [55, 185],
    [-45, 185],
    [-45, 35],
  ])
  expect(placing.box).toEqual({ x: -45, y: 35, w: 100, h: 150 })
  expect(onSheet(placing, placing.pivot)).toEqual({ x: 5, y: 110 })
})

test('several together are one rectangle on the sheet; what is done to it is done to each, in whatever group', () => {
  const group = layer('g', scaled(0.5), { type: 'group', isolated: true, layers: [layer('in', moved(200, 0))] })
  const a = artwork([layer('p', moved(10, 0)), group])
  const placing = placingOf(a, ['p', 'in'])!
  expect(placing.box).toEqual({ x: 10, y: 0, w: 300, h: 200 })
  const command = placeCommand(placing, moved(30, 40), 'Move')
  const b = perform(a, command).artwork
  for (const id of ['p', 'in']) {
    const [was, is] = [placingOf(a, [id])!, placingOf(b, [id])!]
    const [p, q] = [onSheet(was, { x: 5, y: 6 })!, onSheet(is, { x: 5, y: 6 })!]
    expect([q.x - p.x, q.y - p.y]).toEqual([30, 40])
  }
})

test('lines to be drawn to: the sheet’s with thirds, guides, other layers’; not those of what is dragged, hidden, or fills the sheet', () => {
  const a = {
    ...artwork([layer('full', moved(0, 0)), layer('p', times(moved(20, 30), scaled(0.5))), { ...layer('hidden', scaled(0.2)), visible: false }]),
    guides: [{ axis: 'upright' as const, at: 77 }],
  }
  const names = new Set(linesFor(a, new Set()).map((l) => l.name))
  expect(names).toEqual(new Set(['Sheet, edge', 'Sheet, middle', 'Sheet, third', 'Guide', 'p, edge', 'p, middle']))
  expect(linesFor(a, new Set(['p'])).some((l) => l.name.startsWith('p'))).toBe(false)
  expect(linesFor(a, new Set()).find((l) => l.name === 'Guide')).toMatchObject({ axis: 'x', at: 77 })
  expect(mapped(scaled(2), { x: 1, y: 1 })).toEqual({ x: 2, y: 2 })
})

test('a ruler’s numbers stand apart and are ones, twos and fives', () => {
  for (const per of [0.013, 0.27, 1, 3.3, 40]) {
    const long = marksOf(-1000 / per, 1000 / per, per).filter((m) => m.long)
    const step = long[1]!.at - long[0]!.at
    expect(step * per).toBeGreaterThanOrEqual(56)
    expect(step * per).toBeLessThan(56 * 2.6)
    const head = step / 10 ** Math.floor(Math.log10(step) + 1e-9)
    expect([1, 2, 5].some((n) => Math.abs(head - n) < 1e-6)).toBe(true)
    expect(long.some((m) => m.text === '0')).toBe(true)
  }
})

test('the ground of a photo is the commonest colour along its borders', () => {
  const [w, h] = [60, 40]
  const pixels = new Uint8Array(w * h * 4)
  for (let y = 0; y < h; y++)
    for (let x = 0; x < w; x++) {
      const inside = x > 15 && x < 45 && y > 8
      // a wall with a little noise, a sitter, and a strip of floor
      const v = inside ? [200, 40, 30] : y > 36 ? [20, 20, 20] : [96 + ((x * 7) % 5), 120, 140 - ((y * 3) % 4)]
      pixels.set([...v, 255], (y * w + x) * 4)
    }
  const [r, g, b] = [1, 3, 5].map((i) => Number.parseInt(groundOf(pixels, w, h)!.slice(i, i + 2), 16))
  expect(Math.abs(r! - 98)).toBeLessThan(4)
  expect(g).toBe(120)
  expect(Math.abs(b! - 138)).toBeLessThan(4)
  expect(groundOf(new Uint8Array(w * h * 4), w, h)).toBeNull()
})
