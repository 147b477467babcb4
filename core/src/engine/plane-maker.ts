import type { Region } from '../base/region.ts'
import type { Kernels } from '../kernels/kernels.ts'
import { constantEntry, constantPixel, entryOf, indexOf, nameOfBytes, tileBytes, withEntries, type Blob, type Entry, type Plane } from '../planes/plane.ts'
import type { Painted } from './painter.ts'
import type { PlaneTiles } from './planes.ts'

/** Names bytes: SHA-256 in hexadecimal. */
export type Digest = (bytes: Uint8Array) => Promise<string>
export const named: Digest = async (bytes) => nameOfBytes(bytes)

/** Makes a plane out of another, tile by tile. */
export class PlaneMaker {
  private readonly kernels: Kernels
  private readonly planes: PlaneTiles
  private readonly plane: Plane
  private readonly blank: Entry
  private readonly digest: Digest
  private readonly blobs: Blob[] = []
  private readonly changes: { tx: number; ty: number; entry: Entry | null }[] = []

  constructor(kernels: Kernels, planes: PlaneTiles, plane: Plane, blank: Entry, digest: Digest = named) {
    this.kernels = kernels
    this.planes = planes
    this.plane = plane
    this.blank = blank
    this.digest = digest
  }

  /** A tile by its bytes in kernel memory, which stay the caller's. */
  async keep(ptr: number, tx: number, ty: number): Promise<void> {
    const { kernels, plane } = this
    const { channels } = plane
    const bytes = tileBytes(channels)
    if (kernels.raw.isConstant(ptr, bytes, channels * 2))
      return this.put(channels === 1 ? constantEntry(kernels.u16(ptr, 1)[0]!) : constantPixel(pixelAt(kernels, ptr)), tx, ty)
    const copy = kernels.bytes(ptr, bytes).slice()
    const entry = await this.digest(copy)
    if (entry !== entryOf(plane, tx, ty)) this.blobs.push({ name: entry, bytes: copy })
    this.put(entry, tx, ty)
  }

  /** A tile of one value, or one that is known already. */
  put(entry: Entry, tx: number, ty: number): void {
    this.changes.push({ tx, ty, entry: entry === this.blank ? null : entry })
  }

  /** The plane with all that was put into it. */
  end(damage: Region): Painted {
    const plane = withEntries(this.plane, this.changes)
    const { root, pages } = indexOf(plane)
    this.planes.remember(root.name, plane)
    return { index: root.name, plane, blobs: [...this.blobs, ...pages, root], damage }
  }
}

const pixelAt = (kernels: Kernels, ptr: number): bigint => {
  const [r, g, b, a] = kernels.u16(ptr, 4)
  return BigInt(r!) | (BigInt(g!) << 16n) | (BigInt(b!) << 32n) | (BigInt(a!) << 48n)
}
