import { packPart, unpackPart } from '@nimble-quill/core'
import { createStore, delMany, get, getMany, promisifyRequest, set, setMany } from 'idb-keyval'

// Parts of what was painted, kept in this browser by the SHA-256 of their bytes until they are no longer needed: by the engine worker when a
// stroke ends, read by it, and sent from here to the server. Deflated, as the server takes them.

interface Part {
  deflated: Uint8Array<ArrayBuffer>
  at: number
  /** The server has it. */
  sent: boolean
}

/** Parts that the server has may go after so long: it has them, and undo does not reach back over sessions. */
const KEPT = 7 * 24 * 3600 * 1000
const NEVER_SENT = 30 * 24 * 3600 * 1000

let opened: ReturnType<typeof createStore> | null = null
const store = () => (opened ??= createStore('quill-planes', 'parts'))

const through = async (bytes: Uint8Array, stream: CompressionStream | DecompressionStream): Promise<Uint8Array<ArrayBuffer>> =>
  new Uint8Array(await new Response(new Blob([bytes as Uint8Array<ArrayBuffer>]).stream().pipeThrough(stream)).arrayBuffer())

/** Keeps parts. Rejects where the browser has no more room. */
export async function keepParts(parts: readonly { name: string; bytes: Uint8Array }[]): Promise<void> {
  const at = Date.now()
  const deflated = await Promise.all(
    parts.map(async ({ name, bytes }): Promise<[string, Part]> => [
      name,
      { deflated: await through(packPart(bytes), new CompressionStream('deflate')), at, sent: false },
    ]),
  )
  await setMany(deflated, store())
}

/** The bytes of a kept part; null where it is not kept here. */
export async function keptPart(name: string): Promise<Uint8Array | null> {
  const part = await get<Part>(name, store()).catch(() => undefined)
  return part ? inflated(part.deflated) : null
}

/** A part out of its deflated form. */
export const inflated = async (deflated: Uint8Array): Promise<Uint8Array> => unpackPart(await through(deflated, new DecompressionStream('deflate')))

/** Parts as they are sent; those that are not here are left out. */
export async function partsToSend(names: readonly string[]): Promise<{ name: string; deflated: Uint8Array<ArrayBuffer>; sent: boolean }[]> {
  const parts = await getMany<Part>([...names], store())
  return names.flatMap((name, i) => (parts[i] ? [{ name, deflated: parts[i].deflated, sent: parts[i].sent }] : []))
}

export async function markSent(name: string): Promise<void> {
  const part = await get<Part>(name, store())
  if (part) await set(name, { ...part, sent: true }, store())
}

/** Halved tiles go after so long: they can be made again. */
const HALVES = 30 * 24 * 3600 * 1000
interface Half {
  deflated: Uint8Array<ArrayBuffer>
  at: number
}
let openedHalves: ReturnType<typeof createStore> | null = null
const halves = () => (openedHalves ??= createStore('quill-halves', 'halves'))

/** A halved tile that was made in an earlier session; null where it is not kept here. */
export async function keptHalf(name: string): Promise<Uint8Array | null> {
  const half = await get<Half>(name, halves())
  return half ? inflated(half.deflated) : null
}

/** Keeps a halved tile, where there is room. */
export async function keepHalf(name: string, bytes: Uint8Array): Promise<void> {
  const deflated = await through(packPart(bytes), new CompressionStream('deflate'))
  await set(name, { deflated, at: Date.now() } satisfies Half, halves()).catch(() => undefined)
}

/** Lets go of what the server has had for long, and of what was never sent for longer: strokes that were undone. One part at a time. */
export async function forgetOldParts(now = Date.now()): Promise<void> {
  await forget<Part>(store(), ({ at, sent }) => now - at > (sent ? KEPT : NEVER_SENT))
  await forget<Half>(halves(), ({ at }) => now - at > HALVES)
  await forgetBeyond(MOST_HALVES)
}

/** Each stroke leaves halved tiles of its own; so many of the newest are kept, some hundred megabytes. */
const MOST_HALVES = 1500
async function forgetBeyond(most: number): Promise<void> {
  // names and ages only: the tiles themselves are looked at one by one
  const ages: [name: IDBValidKey, at: number][] = []
  await halves()('readonly', (all) => {
    const each = all.openCursor()
    each.onsuccess = () => {
      if (!each.result) return
      ages.push([each.result.key, (each.result.value as Half).at])
      each.result.continue()
    }
    return promisifyRequest(all.transaction)
  })
  ages.sort(([, a], [, b]) => a - b)
  await delMany(
    ages.slice(0, Math.max(0, ages.length - most)).map(([name]) => name),
    halves(),
  )
}

const forget = <T>(kept: ReturnType<typeof createStore>, old: (value: T) => boolean): Promise<void> =>
  kept('readwrite', (all) => {
    const each = all.openCursor()
    each.onsuccess = () => {
      const at = each.result
      if (!at) return
      if (old(at.value as T)) at.delete()
      at.continue()
    }
    return promisifyRequest(all.transaction)
  })
