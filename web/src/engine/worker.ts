import {
  Engine,
  EngineHost,
  QuillError,
  startKernels,
  unreadable,
  type CrewStart,
  type FromEngine,
  type SourceInfo,
  type SourceReader,
  type ToEngine,
} from '@nimble-quill/core'
import sharedUrl from '@nimble-quill/core/wasm/core-shared.wasm?url'
import wasmUrl from '@nimble-quill/core/wasm/core.wasm?url'
import { inflated, keepHalf, keepParts, keptHalf, keptPart } from './kept-parts.ts'

// The engine worker: graph, cache and kernels live here; the page only sees finished pixels.

/** SHA-256 by the browser; where the page came over an insecure line it has none, and core's own is used. */
const digest: ((bytes: Uint8Array) => Promise<string>) | undefined = self.crypto.subtle
  ? async (bytes) =>
      Array.from(new Uint8Array(await self.crypto.subtle.digest('SHA-256', bytes as Uint8Array<ArrayBuffer>)), (v) => v.toString(16).padStart(2, '0')).join('')
  : undefined

/** Photos from the server: the lossless pyramid, never through a canvas. */
class ServerSources implements SourceReader {
  /** Parts that were read from this browser. */
  private readonly own = new Set<string>()
  declare readonly digest?: (bytes: Uint8Array) => Promise<string>

  constructor() {
    if (digest) this.digest = digest
  }

  private async get(path: string): Promise<Response> {
    let response: Response
    try {
      response = await fetch(`/api/sources/${path}`)
    } catch {
      throw new QuillError(
        'source-unreadable',
        'The server does not answer, so the photo cannot be read just now. Your work is kept in this browser; it is tried again with the next change.',
      )
    }
    if (response.status === 404)
      throw new QuillError(
        'missing-photo',
        'A photo of this artwork is no longer there. The artwork is safe; add the photo again, or give the layer another source.',
      )
    if (!response.ok)
      throw new QuillError('source-unreadable', 'The photo cannot be read just now. The artwork is safe; it is tried again with the next change.')
    return response
  }

  async info(asset: string): Promise<SourceInfo> {
    return (await this.get(asset)).json() as Promise<SourceInfo>
  }

  async blob(name: string): Promise<Uint8Array> {
    const kept = await keptPart(name)
    // zlib's own checksum tells of damage: inflating would have failed
    if (kept) {
      this.own.add(name)
      return kept
    }
    this.own.delete(name)
    const response = await fetch(`/api/planes/${name}`).catch(() => null)
    if (!response)
      throw new QuillError(
        'source-unreadable',
        'The server does not answer, so what was painted cannot be read just now. It is safe; it is tried again with the next change.',
      )
    if (!response.ok)
      throw unreadable(response.status === 404 ? 'a part of it is neither in this browser nor on the server' : 'the server does not give it out just now')
    return inflated(new Uint8Array(await response.arrayBuffer()))
  }

  guarded(name: string): boolean {
    return this.own.has(name)
  }

  halved(name: string): Promise<Uint8Array | null> {
    return keptHalf(name)
  }
  keepHalved(name: string, bytes: Uint8Array): void {
    void keepHalf(name, bytes)
  }

  async tile(asset: string, level: number, tx: number, ty: number): Promise<Uint8Array> {
    const response = await this.get(`${asset}/${level}/${tx}/${ty}`)
    const plain = response.body!.pipeThrough(new DecompressionStream('deflate'))
    return new Uint8Array(await new Response(plain).arrayBuffer())
  }
}

/** Lets waiting messages in: a message to oneself comes back in a fresh turn, without the delay of timers. */
const channel = new MessageChannel()
const turns: (() => void)[] = []
channel.port1.onmessage = () => turns.shift()?.()
const breathe = () =>
  new Promise<void>((done) => {
    turns.push(done)
    channel.port2.postMessage(null)
  })

const say = (m: FromEngine, transfer: ArrayBuffer[] = []) => self.postMessage(m, { transfer })

/** What was painted is kept in this browser before the page hears of it. */
async function keepPainted(m: FromEngine & { type: 'painted' }): Promise<void> {
  try {
    await keepParts(m.blobs)
    say({ ...m, blobs: m.blobs.map(({ name }) => ({ name, bytes: new Uint8Array() })) })
  } catch {
    say({
      type: 'failed',
      id: m.id,
      code: 'paint-refused',
      message:
        'This browser has no more room for what is painted. What was painted before is safe; this stroke is left out. Free some space, or let the browser keep more for this site.',
    })
  }
}
const post = (m: FromEngine, transfer: ArrayBuffer[] = []) => {
  if (m.type === 'painted') void keepPainted(m)
  else say(m, transfer)
}

const waiting: ToEngine[] = []
let host: EngineHost | null = null
self.onmessage = (e: MessageEvent<ToEngine>) => {
  if (host) host.receive(e.data)
  else waiting.push(e.data)
}

// memory can be shared where the page is isolated from other origins; elsewhere this worker computes alone
const threads = self.crossOriginIsolated ? Math.min(8, navigator.hardwareConcurrency) : 1
const bytes = new Uint8Array(await (await fetch(threads > 1 ? sharedUrl : wasmUrl)).arrayBuffer())
const recruit = (start: CrewStart) => {
  const helper = new Worker(new URL('./crew-worker.ts', import.meta.url), { type: 'module' })
  helper.onerror = () => kernels.crew?.lost()
  helper.postMessage(start)
}
const kernels = await startKernels(bytes, threads > 1 ? { threads, recruit } : {})
host = new EngineHost(new Engine(kernels, new ServerSources(), breathe, 512 * 2 ** 20), post, digest)
for (const m of waiting.splice(0)) host.receive(m)
post({ type: 'ready' })
