import { Mosaics } from './mosaic.ts'

// The test environment has no canvas: one that remembers what was drawn on it stands in.

interface Drawn {
  what: string
  x: number
  y: number
  w: number
  h: number
}
const drawn = new Map<HTMLCanvasElement, Drawn[]>()
beforeAll(() => {
  jest.spyOn(HTMLCanvasElement.prototype, 'getContext').mockImplementation(function (this: HTMLCanvasElement) {
    const list = drawn.get(this) ?? []
    drawn.set(this, list)
    return {
      putImageData: (d: { width: number; height: number; mark: number }, x: number, y: number) =>
        list.push({ what: `tile ${d.mark}`, x, y, w: d.width, h: d.height }),
      clearRect: () => list.push({ what: 'cleared', x: 0, y: 0, w: 0, h: 0 }),
      drawImage: (from: HTMLCanvasElement, x: number, y: number, w = from.width, h = from.height) =>
        list.push(...(drawn.get(from) ?? []).map((d) => ({ ...d, x: d.x + x, y: d.y + y, w, h }))),
    } as unknown as CanvasRenderingContext2D
  } as never)
  ;(globalThis as { ImageData?: unknown }).ImageData = class {
    readonly mark: number
    readonly width: number
    readonly height: number

    constructor(data: Uint8ClampedArray, width: number, height: number) {
      this.mark = data[0]!
      this.width = width
      this.height = height
    }
  }
})
afterAll(() => jest.restoreAllMocks())

const tile = (mark: number, w = 100, h = 100) => Uint8Array.from({ length: w * h * 4 }, () => mark).buffer
const visible = { x: 0, y: 0, w: 400, h: 400 }
const region = { x: 0, y: 0, w: 100, h: 100 }

const blanked: string[] = []
/** What is drawn on the window, in order; each mosaic by the tiles it holds. */
function shown(m: Mosaics, scale = 0.5): string[] {
  const calls: string[] = []
  m.draw(
    {
      drawImage: (c: HTMLCanvasElement, x: number, y: number, w: number) => calls.push(`${(drawn.get(c) ?? []).map((d) => d.what).join('+')} @${x},${y} ${w}`),
    } as unknown as CanvasRenderingContext2D,
    scale,
    { x: 10, y: 20 },
    'low',
    true,
    (r) => blanked.push(`${r.x},${r.y} ${r.w}`),
  )
  return calls
}

test('coarse lies under fine, each at its own scale', () => {
  const m = new Mosaics()
  m.put(1, visible, region, tile(1))
  m.put(2, visible, region, tile(2))
  // a mosaic is laid out in steps of 512 pixels of its level
  expect(shown(m)).toEqual(['tile 2 @10,20 1024', 'tile 1 @10,20 512'])
})

test('after a change, the first new coarse tile takes away what is finer and old; a fine one its own only', () => {
  const m = new Mosaics()
  m.put(1, visible, region, tile(1))
  m.put(2, visible, region, tile(2))
  m.outdate()
  // nothing has come yet: the old picture stays in sight
  expect(shown(m)).toHaveLength(2)
  m.put(2, visible, region, tile(3))
  expect(shown(m)).toEqual(['tile 2+cleared+tile 3 @10,20 1024'])
  m.put(1, visible, region, tile(4))
  expect(shown(m).at(-1)).toBe('tile 4 @10,20 512')
  m.outdate()
  m.put(1, visible, region, tile(5))
  // the coarse one is old now and lies beneath
  expect(shown(m)[0]).toContain('tile 3')
  expect(shown(m)[1]).toContain('tile 5')
})

test('levels of other zooms are let go', () => {
  const m = new Mosaics()
  for (const level of [0, 1, 2, 3, 4, 5]) m.put(level, { ...visible, w: 4000 }, region, tile(level))
  expect(shown(m).map((s) => s.split(' ')[1])).toEqual(['5', '4', '3'])
})

test('when the view moves on, what is there moves with it', () => {
  const m = new Mosaics()
  m.put(0, { x: 0, y: 0, w: 400, h: 400 }, region, tile(1))
  m.put(0, { x: 600, y: 0, w: 400, h: 400 }, { x: 600, y: 0, w: 100, h: 100 }, tile(2))
  const [line] = shown(m, 1)
  // laid out anew from 512 on: the new tile lies 88 to the right
  expect(line).toContain('tile 2')
  expect(line).toContain('@522,20')
})

test('nothing older shows through what is clear: where a newer tile lies is blanked first', () => {
  const m = new Mosaics()
  m.put(2, visible, region, tile(1))
  m.outdate()
  m.put(1, visible, region, tile(2))
  blanked.length = 0
  shown(m)
  // the newer tile alone, at its scale: 100 pixels of level 1 at half size
  expect(blanked).toEqual(['10,20 100'])
})

test('a fine picture of all that is in sight is drawn alone: its borders do not tell what was there before', () => {
  const m = new Mosaics()
  const all = { x: 0, y: 0, w: 200, h: 100 }
  m.put(1, all, { x: 0, y: 0, w: 100, h: 50 }, tile(1, 100, 50))
  m.put(0, all, region, tile(2))
  // half of it has come: what is coarser is still needed beneath
  expect(shown(m, 1)).toHaveLength(2)
  m.put(0, all, { x: 100, y: 0, w: 100, h: 100 }, tile(3))
  expect(shown(m, 1)).toEqual(['tile 2+tile 3 @10,20 512'])
  // and again where the view has moved on
  m.put(0, { ...all, y: 100 }, { x: 0, y: 100, w: 100, h: 100 }, tile(4))
  expect(shown(m, 1)).toHaveLength(2)
})
