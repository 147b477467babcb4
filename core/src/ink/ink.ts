import type { Region } from '../base/region.ts'
import { sha256 } from '@noble/hashes/sha2.js'
import { bytesToHex, hexToBytes } from '@noble/hashes/utils.js'
import { QuillError } from '../base/errors.ts'

// Ink: pen strokes as objects. They lie in blobs that are named by their bytes: chunks of strokes, and a root that lists the chunks; so a stroke that is added or
// changed makes one small chunk and a root anew, however many there are, and undo finds what was.

/** Parts of a pixel that places and breadths are rounded to. */
export const INK_UNIT = 64
/** Strokes a chunk holds, at most; and an ink layer. */
export const CHUNK = 256
export const MOST_STROKES = 200_000
/** Places of one stroke, at most. */
export const MOST_PLACES = 60_000
/** Furthest place, pixels. */
const FAR = 2 ** 22
/** Bytes of a stroke's head and of each of its places. */
const HEAD = 8
const PLACE = 12

/** A place along a stroke: artwork pixels. */
export interface InkPlace {
  x: number
  y: number
  /** Half the breadth. */
  half: number
}
export interface InkStroke {
  /** Its own among those of its layer. */
  id: number
  places: readonly InkPlace[]
}
/** Some strokes, and the name of their bytes. */
interface Chunk {
  name: string
  strokes: readonly InkStroke[]
}
/** All strokes of a layer, in the order they are laid. */
export interface Ink {
  chunks: readonly Chunk[]
}
export interface InkBlob {
  name: string
  bytes: Uint8Array
}

export const noInk: Ink = { chunks: [] }
const unreadable = (what: string): QuillError =>
  new QuillError('plane-unreadable', `Ink cannot be read: ${what}. The artwork and what was drawn before are safe.`)

const hashOfBytes = (bytes: Uint8Array): string => bytesToHex(sha256(bytes))
const MARK = [0x4e, 0x51, 0x49] // NQI
const isMarked = (bytes: Uint8Array, kind: number): boolean => bytes.length >= 8 && MARK.every((b, i) => bytes[i] === b) && bytes[3] === kind && bytes[4] === 1
const [OF_CHUNK, OF_ROOT] = [0x63, 0x72] // c, r

/** The bytes of a chunk: whole numbers, the lower byte first. */
function encodeChunk(strokes: readonly InkStroke[]): Uint8Array {
  const bytes = new Uint8Array(8 + strokes.reduce((n, s) => n + HEAD + PLACE * s.places.length, 0))
  const view = new DataView(bytes.buffer)
  bytes.set([...MARK, OF_CHUNK, 1, 0])
  view.setUint16(6, strokes.length, true)
  let at = 8
  for (const { id, places } of strokes) {
    view.setUint32(at, id, true)
    view.setUint32(at + 4, places.length, true)
    at += HEAD
    for (const { x, y, half } of places) {
      view.setInt32(at, Math.round(x * INK_UNIT), true)
      view.setInt32(at + 4, Math.round(y * INK_UNIT), true)
      view.setUint32(at + 8, Math.round(half * INK_UNIT), true)
      at += PLACE
    }
  }
  return bytes
}

/** @throws QuillError `plane-unreadable` */
export function parseChunk(bytes: Uint8Array): InkStroke[] {
  if (!isMarked(bytes, OF_CHUNK)) throw unreadable('a part of it is none of ink')
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength)
  const n = view.getUint16(6, true)
  if (n > CHUNK) throw unreadable('a part of it holds too much')
  const strokes: InkStroke[] = []
  let at = 8
  for (let k = 0; k < n; k++) {
    if (at + HEAD > bytes.length) throw unreadable('a part of it is cut off')
    const [id, count] = [view.getUint32(at, true), view.getUint32(at + 4, true)]
    at += HEAD
    if (count < 1 || count > MOST_PLACES || at + PLACE * count > bytes.length) throw unreadable('a part of it is cut off')
    const places: InkPlace[] = []
    for (let i = 0; i < count; i++, at += PLACE) {
      const place = { x: view.getInt32(at, true) / INK_UNIT, y: view.getInt32(at + 4, true) / INK_UNIT, half: view.getUint32(at + 8, true) / INK_UNIT }
      if (Math.abs(place.x) > FAR || Math.abs(place.y) > FAR || place.half > FAR) throw unreadable('a stroke lies beyond everything')
      places.push(place)
    }
    strokes.push({ id, places })
  }
  if (at !== bytes.length) throw unreadable('a part of it is longer than it says')
  return strokes
}

/** What a root lists: the names of its chunks. @throws QuillError `plane-unreadable` */
export function parseInkRoot(bytes: Uint8Array): string[] {
  if (!isMarked(bytes, OF_ROOT)) throw unreadable('its list of parts is none of ink')
  const n = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength).getUint16(6, true)
  if (bytes.length !== 8 + 32 * n || n * CHUNK > MOST_STROKES + CHUNK) throw unreadable('its list of parts is damaged')
  return Array.from({ length: n }, (_, i) => bytesToHex(bytes.subarray(8 + 32 * i, 40 + 32 * i)))
}

/** Whether bytes can be a part of ink: a chunk or a root. */
export function isInkPart(bytes: Uint8Array): boolean {
  try {
    if (isMarked(bytes, OF_ROOT)) parseInkRoot(bytes)
    else parseChunk(bytes)
    return true
  } catch {
    return false
  }
}

const encoded = new WeakMap<readonly InkStroke[], InkBlob>()
function blobOf(strokes: readonly InkStroke[]): InkBlob {
  let blob = encoded.get(strokes)
  if (!blob) {
    const bytes = encodeChunk(strokes)
    encoded.set(strokes, (blob = { name: hashOfBytes(bytes), bytes }))
  }
  return blob
}

/** All of ink as blobs, the root last; its name is what documents hold. */
export function inkBlobs({ chunks }: Ink): { root: InkBlob; chunks: InkBlob[] } {
  const bytes = new Uint8Array(8 + 32 * chunks.length)
  bytes.set([...MARK, OF_ROOT, 1, 0])
  new DataView(bytes.buffer).setUint16(6, chunks.length, true)
  chunks.forEach(({ name }, i) => bytes.set(hexToBytes(name), 8 + 32 * i))
  return { root: { name: hashOfBytes(bytes), bytes }, chunks: chunks.map((c) => blobOf(c.strokes)) }
}

/**
 * Ink by the name of its root.
 * @param read bytes by their name
 * @throws QuillError `plane-unreadable` and what `read` throws
 */
export async function openInk(root: string, read: (name: string) => Promise<Uint8Array>): Promise<Ink> {
  const part = async (name: string) => {
    const bytes = await read(name)
    if (hashOfBytes(bytes) !== name) throw unreadable('a part of it is not what its name says')
    return bytes
  }
  const chunks: Chunk[] = []
  for (const name of parseInkRoot(await part(root))) chunks.push({ name, strokes: parseChunk(await part(name)) })
  return { chunks }
}

export function* strokesOf({ chunks }: Ink): Generator<InkStroke> {
  for (const { strokes } of chunks) yield* strokes
}
export const strokeCount = ({ chunks }: Ink): number => chunks.reduce((n, c) => n + c.strokes.length, 0)

const chunked = (strokes: readonly InkStroke[]): Chunk => ({ name: blobOf(strokes).name, strokes })

/** The next number that no stroke has. */
export function freeId(ink: Ink): number {
  let most = 0
  for (const { id } of strokesOf(ink)) most = Math.max(most, id)
  return most + 1
}

function checked(places: readonly InkPlace[]): void {
  if (places.length < 1 || places.length > MOST_PLACES)
    throw new QuillError('param-invalid', `A stroke of ink has between 1 and ${MOST_PLACES} places. It is left out.`)
  if (!places.every((p) => Number.isFinite(p.x + p.y + p.half) && Math.abs(p.x) <= FAR && Math.abs(p.y) <= FAR && p.half >= 0))
    throw new QuillError('param-invalid', 'A stroke of ink lies beyond everything. It is left out.')
}

/**
 * Lays further strokes over those that are there; they are given numbers of their own.
 * @throws QuillError `param-invalid` for one without places, `too-many-marks` beyond 200 000
 */
export function withStrokes(ink: Ink, strokes: readonly (readonly InkPlace[])[]): Ink {
  if (strokeCount(ink) + strokes.length > MOST_STROKES)
    throw new QuillError('too-many-marks', `An ink layer holds ${MOST_STROKES} strokes at most. Nothing was changed; put further ones on another layer.`)
  for (const places of strokes) checked(places)
  let id = freeId(ink)
  const open = strokes.map((places): InkStroke => ({ id: id++, places }))
  const chunks = [...ink.chunks]
  const last = chunks.at(-1)
  if (last && last.strokes.length < CHUNK && open.length) chunks[chunks.length - 1] = chunked([...last.strokes, ...open.splice(0, CHUNK - last.strokes.length)])
  while (open.length) chunks.push(chunked(open.splice(0, CHUNK)))
  return { chunks }
}

/** Strokes changed in place; those that become null are taken out. Chunks without one of them stay as they are. */
export function changedStrokes(ink: Ink, ids: ReadonlySet<number>, change: (stroke: InkStroke) => readonly InkPlace[] | null): Ink {
  const chunks = ink.chunks.flatMap((chunk) => {
    if (!chunk.strokes.some((s) => ids.has(s.id))) return [chunk]
    const strokes = chunk.strokes.flatMap((s): InkStroke[] => {
      if (!ids.has(s.id)) return [s]
      const places = change(s)
      if (!places) return []
      checked(places)
      return [{ id: s.id, places }]
    })
    return strokes.length ? [chunked(strokes)] : []
  })
  return { chunks }
}
const NONE: ReadonlySet<number> = new Set()
export const withoutStrokes = (ink: Ink, ids: ReadonlySet<number>): Ink => changedStrokes(ink, ids, () => null)

interface Box {
  left: number
  top: number
  right: number
  low: number
}
const boxes = new WeakMap<Chunk, Box>()

/** What a chunk's strokes reach, looked at once: most of a layer is passed over by it. */
function boxOfChunk(chunk: Chunk): Box {
  const known = boxes.get(chunk)
  if (known) return known
  const box = { left: Infinity, top: Infinity, right: -Infinity, low: -Infinity }
  for (const { places } of chunk.strokes)
    for (const { x, y, half } of places) {
      if (x - half < box.left) box.left = x - half
      if (x + half > box.right) box.right = x + half
      if (y - half < box.top) box.top = y - half
      if (y + half > box.low) box.low = y + half
    }
  boxes.set(chunk, box)
  return box
}

/** Strokes of which a place lies within a rectangle of the ink's own pixels, from the lowest up. */
export function strokesWithin(ink: Ink, { x, y, w, h }: Region): InkStroke[] {
  return ink.chunks.flatMap((chunk) => {
    const b = boxOfChunk(chunk)
    if (b.left > x + w || b.right < x || b.top > y + h || b.low < y) return []
    return chunk.strokes.filter(({ places }) => places.some((p) => p.x >= x && p.x <= x + w && p.y >= y && p.y <= y + h))
  })
}

/** The uppermost stroke whose rim is no further than `near` from a place; null where there is none. @param without strokes that do not count */
export function strokeAt(ink: Ink, x: number, y: number, near: number, without: ReadonlySet<number> = NONE): InkStroke | null {
  for (let c = ink.chunks.length - 1; c >= 0; c--) {
    const chunk = ink.chunks[c]!
    const b = boxOfChunk(chunk)
    if (x < b.left - near || x > b.right + near || y < b.top - near || y > b.low + near) continue
    const { strokes } = chunk
    for (let k = strokes.length - 1; k >= 0; k--) {
      const { id, places } = strokes[k]!
      if (without.has(id)) continue
      for (let i = 0; i < places.length; i++) {
        const [a, b] = [places[i]!, places[Math.min(i + 1, places.length - 1)]!]
        const [dx, dy] = [b.x - a.x, b.y - a.y]
        const long = dx * dx + dy * dy
        const t = long > 0 ? Math.min(1, Math.max(0, ((x - a.x) * dx + (y - a.y) * dy) / long)) : 0
        if (Math.hypot(x - a.x - t * dx, y - a.y - t * dy) <= near + a.half + (b.half - a.half) * t) return strokes[k]!
      }
    }
  }
  return null
}
