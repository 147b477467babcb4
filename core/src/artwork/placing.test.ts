import fc from 'fast-check'
import { identity, inverse, kindOf, mapped, moved, placed, scaled, times, turned, type Matrix, type Point } from '../base/transform.ts'
import { perform, type Command } from './commands.ts'
import { newLayer } from './layers.ts'
import { artworkFromPhoto } from './load.ts'
import { aligned, cornerTo, decidedAs, distributed, fittedInto, flipped, movedBy, scaledTo, tidied, turnedBy, turnedTo, withoutPerspective } from './placing.ts'
import type { Artwork, Layer } from './schema.ts'
import { laidBox, laidCorners, ownExtent, spaceOf, toSheet } from './spaces.ts'

const own = { x: 0, y: 0, w: 300, h: 200 }
const number = (min: number, max: number) => fc.double({ min, max, noNaN: true })
const laidMatrix = fc
  .record({ x: number(-200, 400), y: number(-200, 400), scaleX: number(0.2, 3), scaleY: number(0.2, 3), angle: number(-180, 180), slant: fc.constant(0) })
  .map((d) => placed(d, { x: 150, y: 100 }))
const point = fc.record({ x: number(-400, 700), y: number(-400, 700) })
const near = (a: Point | null, b: Point, by = 1.001) => expect(Math.hypot(a!.x - b.x, a!.y - b.y)).toBeLessThan(by)

describe('what a hand does to a placement', () => {
  test('a corner pulled comes under the hand, the one across stays; with its ratio it comes as near as that allows', () => {
    fc.assert(
      fc.property(laidMatrix, point, (m, to) => {
        const [stays, grip] = [
          { x: 0, y: 0 },
          { x: 300, y: 200 },
        ]
        const free = scaledTo(m, stays, grip, to, 'both')
        if (free) {
          // upright ones lie on whole pixels: half of one is given away at most each way
          near(mapped(free, grip), to)
          near(mapped(free, stays), mapped(m, stays)!)
        }
        const kept = scaledTo(m, stays, grip, to, 'ratio')
        if (kept) {
          near(mapped(kept, stays), mapped(m, stays)!)
          const [a, b] = [inverse(m)!, kept]
          const by = times(a, b)
          expect(by[0]).toBeCloseTo(by[4], 6)
          expect(by[1]).toBeCloseTo(0, 6)
        }
      }),
    )
  })

  test('pulled through the side that stays it would fold over: refused', () => {
    expect(scaledTo(identity, { x: 0, y: 0 }, { x: 300, y: 200 }, { x: -5, y: 100 }, 'both')).toBeNull()
    expect(scaledTo(identity, { x: 0, y: 0 }, { x: 300, y: 200 }, { x: 0, y: 100 }, 'both')).toBeNull()
    expect(scaledTo(identity, { x: 0, y: 0 }, { x: 300, y: 100 }, { x: 150, y: -900 }, 'x')).toEqual([0.5, 0, 0, 0, 1, 0, 0, 0, 1])
  })

  test('four quarter turns, two flips, and there and back again are where it was, to the bit', () => {
    fc.assert(
      fc.property(fc.integer({ min: -50, max: 400 }), fc.integer({ min: -50, max: 400 }), (x, y) => {
        const m = moved(x, y)
        const pivot = { x: x + 150, y: y + 100 }
        let turning: Matrix = m
        for (let i = 0; i < 4; i++) {
          turning = turnedBy(turning, pivot, 90)
          expect(['copy', 'still']).toContain(kindOf(turning))
        }
        expect(turning).toEqual(m)
        for (const way of ['across', 'down'] as const) expect(flipped(flipped(m, pivot, way), pivot, way)).toEqual(m)
        expect(movedBy(movedBy(m, 3.4, -8.2), -3.4, 8.2)).toEqual(m)
      }),
    )
  })

  test('turned by the hand about its pivot: as far as the hand went round; in steps it stands at whole ones', () => {
    const pivot = { x: 150, y: 100 }
    const m = turnedTo(identity, pivot, { x: 300, y: 100 }, { x: 150, y: 300 }, 0)
    expect(kindOf(m)).toBe('copy')
    near(mapped(m, pivot), pivot)
    const stepped = turnedTo(turned(4), pivot, { x: 300, y: 100 }, { x: 300, y: 160 }, 15)
    expect((Math.atan2(stepped[3], stepped[0]) * 180) / Math.PI).toBeCloseTo(30, 6)
  })

  test('exact numbers about a pivot: what is said is so, and the pivot’s place is kept', () => {
    const pivot = { x: 150, y: 100 }
    const half = decidedAs(identity, pivot, { scaleX: 0.5, scaleY: 0.5 })!
    expect(kindOf(half)).toBe('half')
    near(mapped(half, pivot), pivot)
    const at = decidedAs(half, pivot, { x: 40, y: 60 })!
    near(mapped(at, pivot), { x: 40, y: 60 })
    expect(kindOf(decidedAs(identity, pivot, { angle: 90 })!)).toBe('copy')
    expect(decidedAs(identity, pivot, { scaleX: 0 })).toBeNull()
  })

  test('one corner by itself: the other three stay; through a side it is refused; without its perspective it is a parallelogram with the same middle', () => {
    const m = cornerTo(identity, own, 2, { x: 360, y: 250 })!
    expect(kindOf(m)).toBe('projective')
    const corners = laidCorners(m, own)!
    near(corners[2], { x: 360, y: 250 }, 1e-6)
    near(corners[0], { x: 0, y: 0 }, 1e-6)
    expect(cornerTo(identity, own, 2, { x: 100, y: 50 })).toBeNull()
    expect(cornerTo(identity, own, 0, { x: 500, y: 300 })).toBeNull()
    const flat = withoutPerspective(m, own)
    expect(kindOf(flat)).toBe('affine')
    near(mapped(flat, { x: 150, y: 100 }), mapped(m, { x: 150, y: 100 })!, 1e-6)
  })

  test('fitted into a sheet, or so that it covers it, in the middle', () => {
    expect(fittedInto(own, { x: 0, y: 0, w: 600, h: 600 }, 'inside')).toEqual([2, 0, 0, 0, 2, 100, 0, 0, 1])
    expect(fittedInto(own, { x: 0, y: 0, w: 600, h: 600 }, 'cover')).toEqual([3, 0, -150, 0, 3, 0, 0, 0, 1])
    expect(kindOf(fittedInto(own, own, 'inside'))).toBe('still')
  })

  test('upright ones lie on whole pixels, turned ones anywhere', () => {
    expect(tidied([0.5, 0, 10.4, 0, 0.5, -3.6, 0, 0, 1])).toEqual([0.5, 0, 10, 0, 0.5, -4, 0, 0, 1])
    const aslant = times(moved(10.4, 0), turned(10))
    expect(tidied(aslant)).toEqual(aslant)
  })

  test('boxes are aligned along a line, or with even gaps between them', () => {
    const boxes = [
      { x: 0, y: 5, w: 10, h: 10 },
      { x: 30, y: 0, w: 20, h: 30 },
      { x: 90, y: 9, w: 10, h: 4 },
    ]
    expect(aligned(boxes, { x: 0, y: 0, w: 100, h: 30 }, 'right').map((d, i) => boxes[i]!.x + boxes[i]!.w + d.dx)).toEqual([100, 100, 100])
    expect(aligned(boxes, { x: 0, y: 0, w: 100, h: 30 }, 'middle').map((d, i) => boxes[i]!.y + boxes[i]!.h / 2 + d.dy)).toEqual([15, 15, 15])
    const even = distributed(boxes, 'across').map((d, i) => boxes[i]!.x + d.dx)
    expect(even[1]! - 10).toBeCloseTo(90 - (even[1]! + 20), 9)
    expect([even[0], even[2]]).toEqual([0, 90])
  })
})

const photo = { type: 'photo', asset: 'a'.repeat(64), width: 300, height: 200 } as const
const layer = (id: string, matrix: Matrix = identity, source: Layer['source'] = photo): Layer => ({
  ...newLayer(id, source, [], id),
  placement: { matrix: [...matrix], pivot: null },
})
const artwork = (layers: Layer[]): Artwork => ({ ...artworkFromPhoto({ asset: photo.asset, width: 300, height: 200, title: 't' }), layers })
const done = (a: Artwork, command: Command) => perform(a, command).artwork
const onSheet = (a: Artwork, id: string): Matrix => {
  const find = (list: readonly Layer[]): Layer | null => {
    for (const l of list) {
      if (l.id === id) return l
      const inside = l.source.type === 'group' ? find(l.source.layers) : null
      if (inside) return inside
    }
    return null
  }
  return toSheet(a, find(a.layers)!)
}

describe('placing as a command', () => {
  test('several at once, named, and undone to the bit', () => {
    const a = artwork([layer('p'), layer('q')])
    const { artwork: b, edit } = perform(a, {
      type: 'place-layers',
      layers: [
        { layer: 'p', matrix: moved(4, 5) },
        { layer: 'q', matrix: scaled(0.5), pivot: { x: 1, y: 2 } },
      ],
      what: 'Move',
    })
    expect(edit.title).toBe('Move 2 layers')
    expect(b.layers[1]!.placement).toEqual({ matrix: [0.5, 0, 0, 0, 0.5, 0, 0, 0, 1], pivot: { x: 1, y: 2 } })
    expect(b.layers[0]!.placement.matrix).toEqual(moved(4, 5))
  })

  test.each([
    ['0 px', [0, 0, 5, 0, 1, 0, 0, 0, 1] as Matrix, /some width and some height/],
    ['less than half a pixel', scaled(0.001), /half a pixel/],
    ['beyond the horizon', [1, 0, 0, 0, 1, 0, 0, 0, -1] as Matrix, /beyond the horizon/],
    ['too large', scaled(5000), /at most 400 thousand/],
    ['no number', [NaN, 0, 0, 0, 1, 0, 0, 0, 1] as Matrix, /0 px/],
  ])('%s is refused in a sentence, and nothing is changed', (_, matrix, words) => {
    const a = artwork([layer('p')])
    const command: Command = { type: 'place-layers', layers: [{ layer: 'p', matrix }], what: 'Scale' }
    expect(() => perform(a, command)).toThrow(words)
    expect(a.layers[0]!.placement.matrix).toEqual(identity)
  })

  test('locked layers stay', () => {
    const a = artwork([{ ...layer('p'), locked: true }])
    expect(() => perform(a, { type: 'place-layers', layers: [{ layer: 'p', matrix: moved(1, 0) }], what: 'Move' })).toThrow(/locked/)
  })

  test('layers keep their place on the sheet when they go into a placed group, out of it, or when it is taken apart', () => {
    const group = layer('g', times(moved(40, 10), scaled(0.5)), { type: 'group', isolated: true, layers: [layer('in', moved(6, 8))] })
    const a = artwork([layer('p', moved(3, 4)), group])
    expect(spaceOf(a.layers, 'in')).toEqual(group.placement.matrix)
    const into = done(a, { type: 'move-layers', layers: ['p'], list: 'g', index: 1 })
    near(mapped(onSheet(into, 'p'), { x: 100, y: 50 }), mapped(onSheet(a, 'p'), { x: 100, y: 50 })!)
    const out = done(a, { type: 'move-layers', layers: ['in'], list: null, index: 0 })
    near(mapped(onSheet(out, 'in'), { x: 100, y: 50 }), mapped(onSheet(a, 'in'), { x: 100, y: 50 })!)
    const apart = done(a, { type: 'ungroup', layer: 'g' })
    near(mapped(onSheet(apart, 'in'), { x: 100, y: 50 }), mapped(onSheet(a, 'in'), { x: 100, y: 50 })!)
  })

  test('a group fills what its layers fill; a live copy what it is made of; a fill the sheet', () => {
    const a = artwork([
      layer('p', moved(20, 0)),
      layer('g', identity, { type: 'group', isolated: true, layers: [layer('in', scaled(0.5)), layer('in2', moved(-10, 30))] }),
      layer('c', identity, { type: 'live', layer: 'g' }),
      layer('f', identity, { type: 'fill', colour: '#000000', alpha: 1 }),
    ])
    expect(ownExtent(a, a.layers[1]!)).toEqual({ x: -10, y: 0, w: 300, h: 230 })
    expect(ownExtent(a, a.layers[2]!)).toEqual(ownExtent(a, a.layers[1]!))
    expect(ownExtent(a, a.layers[3]!)).toEqual({ x: 0, y: 0, w: 300, h: 200 })
    expect(laidBox(a, a.layers[0]!)).toEqual({ x: 20, y: 0, w: 300, h: 200 })
  })

  test('guides are put and taken away; more than two hundred are refused', () => {
    const a = artwork([layer('p')])
    const b = done(a, { type: 'set-guides', guides: [{ axis: 'upright', at: 40 }], what: 'Put a guide' })
    expect(b.guides).toEqual([{ axis: 'upright', at: 40 }])
    const many = Array.from({ length: 201 }, (_, i) => ({ axis: 'level' as const, at: i }))
    expect(() => done(a, { type: 'set-guides', guides: many, what: 'Guides' })).toThrow(/at most 200/)
  })
})
