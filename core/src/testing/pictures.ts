import { Engine } from '../engine/engine.ts'
import { GraphCompiler, type Target } from '../engine/graph.ts'
import type { Node } from '../engine/nodes.ts'
import { atLevel, intersect, type Region } from '../base/region.ts'
import type { Signal } from '../engine/request.ts'
import type { Artwork } from '../artwork/schema.ts'
import type { Kernels } from '../kernels/kernels.ts'
import type { MemorySources } from './memory-source.ts'

/** Small repeatable numbers 0…1 (mulberry32), for test pictures. */
export function dice(seed: number): () => number {
  let a = seed
  return () => {
    a = (a + 0x6d2b79f5) | 0
    let t = Math.imul(a ^ (a >>> 15), 1 | a)
    t = (t + Math.imul(t ^ (t >>> 7), 61 | t)) ^ t
    return ((t ^ (t >>> 14)) >>> 0) / 4294967296
  }
}

/** A picture with soft and hard edges, colour and noise; alpha varies where there are four channels. */
export function testPicture(width: number, height: number, channels: 3 | 4 = 3, seed = 1): Uint8Array {
  const next = dice(seed)
  const out = new Uint8Array(width * height * channels)
  for (let y = 0; y < height; y++) {
    for (let x = 0; x < width; x++) {
      const i = (y * width + x) * channels
      const disc = Math.hypot(x - width * 0.4, y - height * 0.5) < Math.min(width, height) * 0.25
      const noise = (next() - 0.5) * 24
      out[i] = Math.max(0, Math.min(255, (x / width) * 200 + (disc ? 60 : 0) + noise))
      out[i + 1] = Math.max(0, Math.min(255, (y / height) * 180 + (disc ? 20 : 40) + noise))
      out[i + 2] = Math.max(0, Math.min(255, 128 + 100 * Math.sin(x / 9) * Math.cos(y / 13) + noise))
      if (channels === 4) out[i + 3] = Math.max(0, Math.min(255, 255 * (1.4 - Math.hypot(x / width - 0.5, y / height - 0.5) * 2)))
    }
  }
  return out
}

/** A picture with forms to be drawn (RGB, 8 bits): a lit ball before a wall, a dark bar, leaves of a texture. */
export function formsPicture(width: number, height: number): Uint8Array {
  const out = new Uint8Array(width * height * 3)
  const [cx, cy, r] = [width * 0.4, height * 0.5, height * 0.32]
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const [dx, dy] = [(x - cx) / r, (y - cy) / r]
      const d = dx * dx + dy * dy
      let v = 0.78 - 0.2 * (y / height)
      if (d < 1) v = 0.12 + 0.8 * Math.max(0, Math.sqrt(1 - d) * 0.55 - 0.5 * dx - 0.45 * dy)
      else if (x > width * 0.82 && x < width * 0.9) v = 0.08
      else if (y > height * 0.85) v = 0.45 + 0.3 * (((x >> 2) + (y >> 2)) % 2)
      for (let c = 0; c < 3; c++) out[(y * width + x) * 3 + c] = Math.round(255 * Math.min(1, v) * (1 - 0.06 * c))
    }
  return out
}

export const newTestEngine = (kernels: Kernels, sources: MemorySources, cacheBytes?: number) =>
  new Engine(kernels, sources, () => new Promise((r) => setImmediate(r)), cacheBytes)

/** How a picture is cut: each cell is asked for by itself. */
export interface Grid {
  w: number
  h: number
}
/** Strips of the whole width. */
export const stripGrid = (rows: number): Grid => ({ w: 1 << 24, h: rows })

/** Cells of a grid that a region touches, cut to it. */
export function cellsOf(region: Region, grid: Grid | undefined): Region[] {
  if (!grid) return [region]
  const cells: Region[] = []
  for (let y = Math.floor(region.y / grid.h) * grid.h; y < region.y + region.h; y += grid.h)
    for (let x = Math.floor(region.x / grid.w) * grid.w; x < region.x + region.w; x += grid.w) cells.push(intersect({ x, y, w: grid.w, h: grid.h }, region))
  return cells
}

/** Computes a region of a node (all of it where not given), by the cells of a grid, and copies it out: RGBA16. */
export async function computeNode(
  engine: Engine,
  node: Node,
  options: {
    level?: number
    region?: Region
    grid?: Grid
    signal?: Signal
    quick?: boolean
    alone?: boolean
    piece?: number
    keep?: 'view' | 'small' | 'render'
  } = {},
): Promise<{ region: Region; pixels: Uint16Array }> {
  const { level = 0, grid, ...asked } = options
  const region = options.region ?? atLevel(node.extent, level)
  const pixels = new Uint16Array(region.w * region.h * 4)
  for (const cell of cellsOf(region, grid)) {
    await engine.withRegion(
      node,
      level,
      cell,
      (pic) => {
        for (let y = 0; y < cell.h; y++)
          pixels.set(engine.kernels.u16(pic.ptr + y * pic.stride, cell.w * 4), ((cell.y - region.y + y) * region.w + cell.x - region.x) * 4)
      },
      asked,
    )
  }
  return { region, pixels }
}

/** As computeNode, for a target of an artwork over the whole sheet. */
export async function compute(
  engine: Engine,
  artwork: Artwork,
  options: Parameters<typeof computeNode>[2] & { target?: Target } = {},
): Promise<{ region: Region; pixels: Uint16Array }> {
  const { target = { type: 'artwork' }, ...rest } = options
  const node = new GraphCompiler(artwork, engine.kernels.hash).compile(target)
  return computeNode(engine, node, { ...rest, region: rest.region ?? atLevel(artwork.sheet, rest.level ?? 0) })
}

/** Waits until something holds; gives up after ten seconds. */
export async function waitFor(holds: () => boolean): Promise<void> {
  for (let i = 0; !holds(); i++) {
    if (i > 1000) throw new Error('waited in vain')
    await new Promise((r) => setTimeout(r, 10))
  }
}
