import { locate, newStep } from '../artwork/layers.ts'
import type { Artwork } from '../artwork/schema.ts'
import { intersect, isEmpty } from '../base/region.ts'
import { spanTable, type Span } from '../blend/span.ts'
import { constantEntry, entryOf, indexOf, nameOfBytes, PLANE_TILE, tileBytes, withEntries, type Blob, type Entry, type Plane } from '../planes/plane.ts'
import { percent } from '../steps/params/index.ts'
import { tableIn } from '../steps/table-cache.ts'
import type { Engine } from './engine.ts'
import { GraphCompiler } from './graph.ts'
import type { Painted } from './painter.ts'
import { fresh, paste } from './pixels.ts'
import { tilesIn } from './planes.ts'
import type { Signal } from './request.ts'

/** Edges for a mask: all of them, light on dark. */
const EVERY_EDGE = { detector: 'scharr', detail: percent(0.5), faintest: 10, weight: percent(0.6), taper: 0.3, ground: 'light' }

/** What a plane is made from. */
export interface PictureFrom {
  layer: string
  by: 'tones' | 'edges' | 'alpha'
  span: Span | null
}

/**
 * A plane of one channel out of what a layer's chain shows: its lightness as a span of tones takes it in, its edges as the step Contours finds
 * them, or what it covers. Row of tiles by row of tiles.
 */
export async function picturedPlane(
  engine: Engine,
  artwork: Artwork,
  plane: Plane,
  blank: Entry,
  { layer, by, span }: PictureFrom,
  signal: Signal,
  digest: (bytes: Uint8Array) => Promise<string> = async (bytes) => nameOfBytes(bytes),
): Promise<Painted> {
  const { kernels, planes } = engine
  const { sheet } = artwork
  let from = artwork
  if (by === 'edges') {
    from = structuredClone(artwork)
    locate(from.layers, layer).layer.chain.push(newStep('contours', EVERY_EDGE))
  }
  const { chain } = locate(from.layers, layer).layer
  const node = new GraphCompiler(from, kernels.hash).compile({ type: 'chain', layer, steps: chain.length })
  const { name, make } =
    by === 'tones' && span
      ? { name: `span ${JSON.stringify(span)}`, make: () => spanTable(span) }
      : { name: 'mask of tones', make: () => Uint16Array.from({ length: 65536 }, (_, v) => v) }
  const blobs: Blob[] = []
  const changes: { tx: number; ty: number; entry: Entry | null }[] = []
  const bytes = tileBytes(1)
  const keep = async (ptr: number, tx: number, ty: number) => {
    let entry: Entry
    if (kernels.raw.isConstant(ptr, bytes, 2)) entry = constantEntry(kernels.u16(ptr, 1)[0]!)
    else {
      const copy = kernels.bytes(ptr, bytes).slice()
      entry = await digest(copy)
      if (entry !== entryOf(plane, tx, ty)) blobs.push({ name: entry, bytes: copy })
    }
    changes.push({ tx, ty, entry: entry === blank ? null : entry })
  }
  for (let y = Math.floor(sheet.y / PLANE_TILE) * PLANE_TILE; y < sheet.y + sheet.h; y += PLANE_TILE) {
    const row = intersect({ x: sheet.x, y, w: sheet.w, h: PLANE_TILE }, sheet)
    const all = fresh(kernels, row)
    try {
      await engine.bands(node, 0, row, (pic) => paste(kernels, pic, all, pic.region), { signal, keep: 'render' })
      for (const tile of tilesIn(row)) {
        const part = intersect(tile, row)
        if (isEmpty(part)) continue
        const ptr = kernels.allocator.alloc(bytes)
        try {
          if (part.w < PLANE_TILE || part.h < PLANE_TILE) kernels.raw.fillGrey(ptr, PLANE_TILE * 2, PLANE_TILE, PLANE_TILE, Number.parseInt(blank.slice(1), 16))
          const src = all.ptr + (part.y - row.y) * all.stride + (part.x - row.x) * 8
          const dst = ptr + (part.y - tile.y) * PLANE_TILE * 2 + (part.x - tile.x) * 2
          if (by === 'alpha') kernels.raw.alphaPicture(src, all.stride, src, all.stride, part.w, part.h)
          kernels.raw.lumaMask(src, all.stride, dst, PLANE_TILE * 2, part.w, part.h, tableIn(kernels, name, make))
          await keep(ptr, tile.tx, tile.ty)
        } finally {
          kernels.allocator.free(ptr)
        }
      }
    } finally {
      all.done()
    }
  }
  const made = withEntries(plane, changes)
  const { root, pages } = indexOf(made)
  blobs.push(...pages, root)
  planes.remember(root.name, made)
  return { index: root.name, plane: made, blobs, damage: sheet }
}
