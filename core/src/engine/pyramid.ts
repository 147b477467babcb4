import type { Kernels } from '../kernels/kernels.ts'
import { levelCount, SOURCE_TILE, type SourceInfo } from './sources.ts'

interface Band {
  ptr: number
  /** Rows now in the band. */
  rows: number
  /** Tile row the band stands for. */
  ty: number
  w: number
}

/**
 * Cuts a photo into a pyramid of stored tiles while its rows come in, top to bottom; holds one row of tiles a level.
 * Level n is the premultiplied mean of 2 × 2 pixels of level n − 1 at 16 bits, rounded to the photo's depth when stored.
 */
export class PyramidCutter {
  readonly info: SourceInfo
  private readonly kernels: Kernels
  private readonly onTile: (level: number, tx: number, ty: number, payload: Uint8Array) => Promise<void>
  private readonly bands: Band[] = []

  constructor(kernels: Kernels, shape: Omit<SourceInfo, 'levels'>, onTile: (level: number, tx: number, ty: number, payload: Uint8Array) => Promise<void>) {
    this.kernels = kernels
    this.onTile = onTile
    this.info = { ...shape, levels: levelCount(shape.width, shape.height) }
    for (let l = 0; l < this.info.levels; l++) {
      const w = Math.ceil(shape.width / 2 ** l)
      this.bands.push({ ptr: kernels.allocator.alloc(w * SOURCE_TILE * 8), rows: 0, ty: 0, w })
    }
  }

  /** Takes whole rows of plain interleaved samples, at most 512 at once. */
  async push(rows: Uint8Array): Promise<void> {
    const { width, channels, depth } = this.info
    const rowBytes = (width * channels * depth) / 8
    const n = rows.length / rowBytes
    const ptr = this.kernels.allocator.alloc(rows.length)
    this.kernels.bytes(ptr, rows.length).set(rows)
    const band = this.bands[0]!
    for (let y = 0; y < n; y++) {
      this.kernels.raw.widenRow(ptr + y * rowBytes, band.ptr + band.rows * width * 8, width, channels, depth)
      if (++band.rows === SOURCE_TILE) await this.flush(0)
    }
    this.kernels.allocator.free(ptr)
  }

  /** After the last row. */
  async end(): Promise<void> {
    for (let l = 0; l < this.info.levels; l++) if (this.bands[l]!.rows > 0) await this.flush(l)
    this.dispose()
  }

  /** Gives the memory back; also after a failure. */
  dispose(): void {
    for (const b of this.bands.splice(0)) this.kernels.allocator.free(b.ptr)
  }

  private async flush(level: number): Promise<void> {
    const { channels, depth } = this.info
    const { raw, allocator } = this.kernels
    const band = this.bands[level]!
    for (let tx = 0; tx * SOURCE_TILE < band.w; tx++) {
      const w = Math.min(SOURCE_TILE, band.w - tx * SOURCE_TILE)
      const rowBytes = (w * channels * depth) / 8
      const ptr = allocator.alloc(rowBytes * band.rows)
      for (let y = 0; y < band.rows; y++) raw.packRow(band.ptr + (y * band.w + tx * SOURCE_TILE) * 8, ptr + y * rowBytes, w, channels, depth)
      const payload = this.kernels.bytes(ptr, rowBytes * band.rows).slice()
      allocator.free(ptr)
      await this.onTile(level, tx, band.ty, payload)
    }
    const rows = band.rows
    band.rows = 0
    band.ty++
    const next = this.bands[level + 1]
    if (!next) return
    raw.halve(band.ptr, band.w * 8, band.w, rows, next.ptr + next.rows * next.w * 8, next.w * 8)
    next.rows += Math.ceil(rows / 2)
    if (next.rows >= SOURCE_TILE) await this.flush(level + 1)
  }
}
