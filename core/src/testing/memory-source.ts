import { PyramidCutter } from '../engine/pyramid.ts'
import { QuillError } from '../base/errors.ts'
import type { SourceInfo, SourceReader } from '../engine/sources.ts'
import type { Kernels } from '../kernels/kernels.ts'

/** Photos held in memory, for tests and the bench. */
export class MemorySources implements SourceReader {
  private readonly infos = new Map<string, SourceInfo>()
  private readonly tiles = new Map<string, Uint8Array>()
  /** Parts of planes by name. */
  readonly blobs = new Map<string, Uint8Array>()

  /** Adds interleaved samples (3 or 4 channels, 8 or 16 bits little-endian) under a name. */
  async add(kernels: Kernels, asset: string, shape: Omit<SourceInfo, 'levels'>, samples: Uint8Array): Promise<void> {
    const cutter = new PyramidCutter(kernels, shape, async (level, tx, ty, payload) => {
      this.tiles.set(`${asset}/${level}/${tx}/${ty}`, payload)
    })
    const rowBytes = (shape.width * shape.channels * shape.depth) / 8
    for (let y = 0; y < shape.height; y += 256) await cutter.push(samples.subarray(y * rowBytes, Math.min(shape.height, y + 256) * rowBytes))
    await cutter.end()
    this.infos.set(asset, cutter.info)
  }

  async info(asset: string): Promise<SourceInfo> {
    const info = this.infos.get(asset)
    if (!info) throw new QuillError('missing-photo', `There is no photo ${asset}.`)
    return info
  }

  async blob(name: string): Promise<Uint8Array> {
    const bytes = this.blobs.get(name)
    if (!bytes) throw new QuillError('plane-unreadable', `There is no ${name}.`)
    return bytes
  }

  /** Stands for a host that guards its parts. */
  guards = false
  guarded(): boolean {
    return this.guards
  }

  /** Halved tiles by name, where they are kept. */
  halves: Map<string, Uint8Array> | null = null
  async halved(name: string): Promise<Uint8Array | null> {
    return this.halves?.get(name) ?? null
  }
  keepHalved(name: string, bytes: Uint8Array): void {
    this.halves?.set(name, bytes)
  }

  async digest(bytes: Uint8Array): Promise<string> {
    return Buffer.from(await crypto.subtle.digest('SHA-256', bytes as Uint8Array<ArrayBuffer>)).toString('hex')
  }

  async tile(asset: string, level: number, tx: number, ty: number): Promise<Uint8Array> {
    return this.tiles.get(`${asset}/${level}/${tx}/${ty}`)!
  }
}
