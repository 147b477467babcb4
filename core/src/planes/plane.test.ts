import { createHash } from 'node:crypto'
import { deflateSync } from 'node:zlib'
import { packPart, unpackPart } from './codec.ts'
import {
  CLEAR,
  constantEntry,
  constantOf,
  constantPixel,
  emptyPlane,
  entryOf,
  indexOf,
  isPlanePart,
  parsePage,
  parseRoot,
  PLANE_PAGE,
  PLANE_TILE,
  tileBytes,
  tileNames,
  withEntries,
  type Plane,
} from './plane.ts'
import { dice } from '../testing/pictures.ts'

const name = (n: number) => createHash('sha256').update(String(n)).digest('hex')
const sha = (bytes: Uint8Array) => createHash('sha256').update(bytes).digest('hex')

/** A plane of tiles here and there, left and above of 0 too. */
function scattered(seed: number, n = 60): Plane {
  const next = dice(seed)
  return withEntries(
    emptyPlane(1),
    Array.from({ length: n }, (_, i) => ({
      tx: Math.floor(next() * 70) - 20,
      ty: Math.floor(next() * 70) - 20,
      entry: i % 5 ? name(i) : constantEntry(Math.floor(next() * 65536)),
    })),
  )
}

/** As a plane is read again from the bytes of its parts. */
function readAgain(plane: Plane): Plane {
  const { root, pages } = indexOf(plane)
  const bytes = new Map(pages.map((p) => [p.name, p.bytes]))
  const { channels, pages: list } = parseRoot(root.bytes)
  return { channels, pages: new Map(list.map((p) => [p.at, parsePage(bytes.get(p.name)!, channels)])) }
}

test('an index is named by the SHA-256 of its bytes, the same however it came about, and read again as it was', () => {
  const plane = scattered(3)
  const { root, pages } = indexOf(plane)
  for (const part of [root, ...pages]) expect(part.name).toBe(sha(part.bytes))
  const again = readAgain(plane)
  expect(indexOf(again).root.name).toBe(root.name)
  for (let ty = -20; ty < 50; ty++) for (let tx = -20; tx < 50; tx++) expect(entryOf(again, tx, ty)).toBe(entryOf(plane, tx, ty))
  // the same tiles, put there in another order, one by one
  let other = emptyPlane(1)
  const all = [...plane.pages].flatMap(([at, page]) => {
    const [px, py] = at.split(',').map(Number) as [number, number]
    return [...page].map(([i, entry]) => ({ tx: px * PLANE_PAGE + (i % PLANE_PAGE), ty: py * PLANE_PAGE + Math.floor(i / PLANE_PAGE), entry }))
  })
  for (const change of all.reverse()) other = withEntries(other, [change])
  expect(indexOf(other).root.name).toBe(root.name)
  expect(tileNames(plane).size).toBeGreaterThan(30)
})

test('a change shares all pages it does not touch, and what is blank again leaves nothing', () => {
  const plane = scattered(4)
  const next = withEntries(plane, [{ tx: 3, ty: 4, entry: name(999) }])
  const touched = [...next.pages].filter(([at, page]) => plane.pages.get(at) !== page)
  expect(touched).toHaveLength(1)
  const cleared = withEntries(emptyPlane(1), [{ tx: 1, ty: 1, entry: name(1) }])
  expect(withEntries(cleared, [{ tx: 1, ty: 1, entry: null }]).pages.size).toBe(0)
})

test('constants say their codes', () => {
  expect(constantEntry(0x8000)).toBe('=8000')
  expect(constantOf('=8000')).toBe(0x8000n)
  const pixel = 0xffff_1234_0001_8000n
  expect(constantOf(constantPixel(pixel))).toBe(pixel)
  expect(constantOf(CLEAR)).toBe(0n)
})

describe('what is no part of a plane is told', () => {
  const text = (v: unknown) => new TextEncoder().encode(typeof v === 'string' ? v : JSON.stringify(v))
  it.each([
    ['not JSON', 'hello'],
    ['a list', []],
    ['another version', { plane: 2, channels: 1, pages: [] }],
    ['three channels', { plane: 1, channels: 3, pages: [] }],
    ['a name that is none', { plane: 1, channels: 1, pages: [[0, 0, '../../etc']] }],
    [
      'a page twice',
      {
        plane: 1,
        channels: 1,
        pages: [
          [0, 0, name(1)],
          [0, 0, name(2)],
        ],
      },
    ],
    ['a place that is none', { plane: 1, channels: 1, pages: [[0.5, 0, name(1)]] }],
    ['pages without end', { plane: 1, channels: 1, pages: Array.from({ length: 2000 }, (_, i) => [i, 0, name(i)]) }],
  ])('a root that is %s', (_, value) => {
    expect(() => parseRoot(text(value))).toThrow(/cannot be read/)
  })

  it.each([
    ['a tile beyond it', { page: [[16, 0, name(1)]] }],
    ['a constant of other channels', { page: [[0, 0, '=0000000000000000']] }],
    ['no list', { page: 5 }],
    ['too many tiles', { page: Array.from({ length: 257 }, () => [0, 0, name(1)]) }],
  ])('a page with %s', (_, value) => {
    expect(() => parsePage(text(value), 1)).toThrow(/cannot be read/)
  })

  it('and parts are known by their form', () => {
    expect(isPlanePart(new Uint8Array(tileBytes(1)))).toBe(true)
    expect(isPlanePart(new Uint8Array(tileBytes(4)))).toBe(true)
    expect(isPlanePart(text({ page: [[0, 0, '=0000000000000000']] }))).toBe(true)
    expect(isPlanePart(indexOf(scattered(1)).root.bytes)).toBe(true)
    expect(isPlanePart(new Uint8Array(tileBytes(1) - 1))).toBe(false)
    expect(isPlanePart(text({}))).toBe(false)
  })
})

test('tiles are packed to what deflates to less, and unpacked to what they were; indexes stay as they are', () => {
  const next = dice(2)
  for (const channels of [1, 4] as const) {
    const codes = Uint16Array.from({ length: PLANE_TILE * PLANE_TILE * channels }, (_, i) => 30_000 + 20_000 * Math.sin(i / 500) + next() * 9)
    const bytes = new Uint8Array(codes.buffer)
    const packed = packPart(bytes)
    expect(Buffer.compare(Buffer.from(unpackPart(packed)), Buffer.from(bytes))).toBe(0)
    // from an odd address too
    const odd = new Uint8Array(packed.length + 1)
    odd.set(packed, 1)
    expect(Buffer.compare(Buffer.from(unpackPart(odd.subarray(1))), Buffer.from(bytes))).toBe(0)
    expect(deflateSync(packed).length).toBeLessThan(0.6 * deflateSync(bytes).length)
  }
  const { root } = indexOf(scattered(1))
  expect(packPart(root.bytes)).toBe(root.bytes)
})
