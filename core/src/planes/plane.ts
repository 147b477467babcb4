import { sha256 } from '@noble/hashes/sha2.js'
import { bytesToHex, utf8ToBytes } from '@noble/hashes/utils.js'
import { QuillError } from '../base/errors.ts'

// A plane is what is painted by hand: 16 bits a pixel, one channel or four, in tiles of 256 × 256 under an index. Everything is named by the SHA-256
// of its own bytes, so nothing ever changes, unchanged pages and tiles are shared, and undo is the index before.

/** Side of a plane's tile, pixels. */
export const PLANE_TILE = 256
/** Side of a page of the index, tiles. */
export const PLANE_PAGE = 16
/** Pages an index may have: a sheet of 60 000 pixels a side takes 225. */
const MOST_PAGES = 1024

export type Channels = 1 | 4

/** One tile: `=` and the codes of its one value in hexadecimal (4 or 16 digits), the name of its bytes, or (while a stroke runs) a name of its own. */
export type Entry = string

/** Entries of a page by their place in it, y · 16 + x. */
export type Page = ReadonlyMap<number, Entry>

/** A plane as it is at one moment; pages by `x,y`. Tiles that are not there are blank: what that is, its use says. */
export interface Plane {
  readonly channels: Channels
  readonly pages: ReadonlyMap<string, Page>
  /** Bytes of tiles that are nowhere else: of planes that are computed. Their names begin with `made`. */
  readonly own?: ReadonlyMap<Entry, Uint8Array>
}

/** Something to be kept under the SHA-256 of its bytes. */
export interface Blob {
  name: string
  bytes: Uint8Array
}

export const emptyPlane = (channels: Channels): Plane => ({ channels, pages: new Map() })

/** The entry of a tile of one value; 65535 is full. */
export const constantEntry = (value: number): Entry => `=${value.toString(16).padStart(4, '0')}`
/** Of RGBA codes. */
export const constantPixel = (pixel: bigint): Entry => `=${pixel.toString(16).padStart(16, '0')}`
export const isConstantEntry = (entry: Entry): boolean => entry.startsWith('=')
/** The value of a constant entry, as a bigint: one code, or an RGBA16 pixel (alpha highest). */
export const constantOf = (entry: Entry): bigint => BigInt(`0x${entry.slice(1)}`)

export const FULL = constantEntry(65535)
export const EMPTY_TILE = constantEntry(0)
/** A light map that changes nothing. */
export const NEUTRAL = constantEntry(32768)
export const CLEAR = constantPixel(0n)

const pageName = (tx: number, ty: number) => `${Math.floor(tx / PLANE_PAGE)},${Math.floor(ty / PLANE_PAGE)}`
const within = (t: number) => ((t % PLANE_PAGE) + PLANE_PAGE) % PLANE_PAGE
const placeIn = (tx: number, ty: number) => within(ty) * PLANE_PAGE + within(tx)

/** The entry of a tile, or undefined where it is blank. */
export function entryOf(plane: Plane, tx: number, ty: number): Entry | undefined {
  return plane.pages.get(pageName(tx, ty))?.get(placeIn(tx, ty))
}

/** A plane with some tiles changed (`null`: blank again); pages without a change are shared. */
export function withEntries(plane: Plane, changes: Iterable<{ tx: number; ty: number; entry: Entry | null }>): Plane {
  const pages = new Map(plane.pages)
  const own = new Map<string, Map<number, Entry>>()
  for (const { tx, ty, entry } of changes) {
    const name = pageName(tx, ty)
    let page = own.get(name)
    if (!page) own.set(name, (page = new Map(pages.get(name))))
    if (entry === null) page.delete(placeIn(tx, ty))
    else page.set(placeIn(tx, ty), entry)
  }
  for (const [name, page] of own) {
    if (page.size) pages.set(name, page)
    else pages.delete(name)
  }
  return { channels: plane.channels, pages }
}

/** Every tile that has bytes of its own. */
export function tileNames(plane: Plane): Set<string> {
  const names = new Set<string>()
  for (const page of plane.pages.values()) for (const entry of page.values()) if (!isConstantEntry(entry)) names.add(entry)
  return names
}

export const nameOfBytes = (bytes: Uint8Array): string => bytesToHex(sha256(bytes))
const named = (value: unknown): Blob => {
  const bytes = utf8ToBytes(JSON.stringify(value))
  return { name: nameOfBytes(bytes), bytes }
}

const encoded = new WeakMap<Page, Blob>()

/**
 * The index of a plane: its root and its pages, each as its bytes. The root lists pages, the pages tiles, both row by row.
 * `name` of the root is what documents hold.
 */
export function indexOf(plane: Plane): { root: Blob; pages: Blob[] } {
  const order = [...plane.pages].map(([at, page]) => ({ at: at.split(',').map(Number) as [number, number], page }))
  order.sort((a, b) => a.at[1] - b.at[1] || a.at[0] - b.at[0])
  const pages = order.map(({ page }) => {
    let blob = encoded.get(page)
    if (!blob) {
      const tiles = [...page].sort(([a], [b]) => a - b).map(([place, entry]) => [place % PLANE_PAGE, Math.floor(place / PLANE_PAGE), entry])
      encoded.set(page, (blob = named({ page: tiles })))
    }
    return blob
  })
  return { root: named({ plane: 1, channels: plane.channels, pages: order.map(({ at }, i) => [...at, pages[i]!.name]) }), pages }
}

/** What is said of a plane that cannot be read. */
export const unreadable = (what: string): QuillError =>
  new QuillError('plane-unreadable', `What was painted cannot be read: ${what}. The artwork and what was painted before are safe.`)

const NAME = /^[0-9a-f]{64}$/

function parsed(bytes: Uint8Array): Record<string, unknown> {
  try {
    const value: unknown = JSON.parse(new TextDecoder('utf-8', { fatal: true }).decode(bytes))
    if (typeof value === 'object' && value !== null && !Array.isArray(value)) return value as Record<string, unknown>
  } catch {
    // told below
  }
  throw unreadable('its index is damaged')
}

const whole = (v: unknown): v is number => Number.isInteger(v) && Math.abs(v as number) < 2 ** 16

/** What a root lists. @throws QuillError `plane-unreadable` */
export function parseRoot(bytes: Uint8Array): { channels: Channels; pages: { at: string; name: string }[] } {
  const { plane, channels, pages } = parsed(bytes)
  if (plane !== 1 || (channels !== 1 && channels !== 4) || !Array.isArray(pages)) throw unreadable('its index is not one of a plane')
  if (pages.length > MOST_PAGES) throw unreadable(`its index lists ${pages.length} pages, more than any sheet has`)
  const seen = new Set<string>()
  return {
    channels,
    pages: pages.map((p: unknown) => {
      const [x, y, name] = Array.isArray(p) ? (p as unknown[]) : []
      if (!whole(x) || !whole(y) || typeof name !== 'string' || !NAME.test(name)) throw unreadable('its index is damaged')
      const at = `${x},${y}`
      if (seen.has(at)) throw unreadable('its index lists a page twice')
      seen.add(at)
      return { at, name }
    }),
  }
}

/** What a page lists. @throws QuillError `plane-unreadable` */
export function parsePage(bytes: Uint8Array, channels: Channels): Page {
  const { page } = parsed(bytes)
  if (!Array.isArray(page) || page.length > PLANE_PAGE * PLANE_PAGE) throw unreadable('a page of its index is damaged')
  const constant = channels === 1 ? /^=[0-9a-f]{4}$/ : /^=[0-9a-f]{16}$/
  const out = new Map<number, Entry>()
  for (const t of page as unknown[]) {
    const [x, y, entry] = Array.isArray(t) ? (t as unknown[]) : []
    const inside = whole(x) && whole(y) && x >= 0 && y >= 0 && x < PLANE_PAGE && y < PLANE_PAGE
    if (!inside || typeof entry !== 'string' || !(NAME.test(entry) || constant.test(entry))) throw unreadable('a page of its index is damaged')
    out.set(y * PLANE_PAGE + x, entry)
  }
  return out
}

/** Whether bytes can be a part of a plane: a tile, a page or a root. */
export function isPlanePart(bytes: Uint8Array): boolean {
  if (bytes.length === tileBytes(1) || bytes.length === tileBytes(4)) return true
  try {
    parseRoot(bytes)
    return true
  } catch {
    return ([1, 4] as const).some((channels) => {
      try {
        parsePage(bytes, channels)
        return true
      } catch {
        return false
      }
    })
  }
}

/** Bytes of a tile: its samples row by row, 16 bits, the lower byte first. */
export const tileBytes = (channels: Channels): number => PLANE_TILE * PLANE_TILE * channels * 2
