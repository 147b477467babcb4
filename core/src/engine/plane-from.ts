import { locate, newStep } from '../artwork/layers.ts'
import { planeAt, type PlaneAddress } from '../artwork/planes.ts'
import { contours1 } from '../steps/line/contours-1.ts'
import type { Artwork } from '../artwork/schema.ts'
import { planeSpace } from '../artwork/spaces.ts'
import { QuillError } from '../base/errors.ts'
import { inverse, type Matrix } from '../base/transform.ts'
import { blankAt } from './blank.ts'
import { intersect, isEmpty, type Region } from '../base/region.ts'
import { spanTable, type Span } from '../blend/span.ts'
import { constantOf, emptyPlane, PLANE_TILE, tileBytes, type Entry, type Plane } from '../planes/plane.ts'
import { percent } from '../steps/params/index.ts'
import { tableIn } from '../steps/table-cache.ts'
import { edgesOf, polygon } from '../paths/path.ts'
import type { Engine } from './engine.ts'
import { stepLines } from './line-file.ts'
import { GraphCompiler, type Target } from './graph.ts'
import type { Node } from './nodes.ts'
import type { Painted } from './painter.ts'
import { fresh, paste } from './pixels.ts'
import { named, PlaneMaker, type Digest } from './plane-maker.ts'
import { tilesIn } from './planes.ts'
import type { Signal } from './request.ts'

/** Edges for a mask: all of them, light on dark. */
const EVERY_EDGE = { detector: 'scharr', detail: percent(0.5), faintest: 10, weight: percent(0.6), taper: 0.3, ground: 'light' }

/** How pixels of a node become samples of a tile. */
export type Take = (src: number, srcStride: number, dst: number, w: number, h: number) => void

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
  at: PlaneAddress,
  { layer, by, span }: PictureFrom,
  signal: Signal,
  digest: Digest = named,
): Promise<Painted> {
  const { kernels } = engine
  let from = artwork
  if (by === 'edges') {
    from = structuredClone(artwork)
    locate(from.layers, layer).layer.chain.push({ ...newStep('contours'), version: contours1.version, params: { ...contours1.defaults, ...EVERY_EDGE } })
  }
  const node = new GraphCompiler(from, kernels.hash).compile({ type: 'for-plane', layer, at })
  const { name, make } =
    by === 'tones' && span
      ? { name: `span ${JSON.stringify(span)}`, make: () => spanTable(span) }
      : { name: 'mask of tones', make: () => Uint16Array.from({ length: 65536 }, (_, v) => v) }
  const take: Take = (src, stride, dst, w, h) => {
    if (by === 'alpha') kernels.raw.alphaPicture(src, stride, src, stride, w, h)
    kernels.raw.lumaMask(src, stride, dst, PLANE_TILE * 2, w, h, tableIn(kernels, name, make))
  }
  return planeOf(engine, planeSpace(artwork, at).within, plane, blank, node, take, signal, digest)
}

/** A plane as it is once what is painted at a place was laid elsewhere, pixel by pixel. @throws QuillError `paint-refused` where nothing is painted */
export async function movedPlane(engine: Engine, artwork: Artwork, at: PlaneAddress, by: Matrix, signal: Signal, digest?: Digest): Promise<Painted> {
  const { kernels } = engine
  const there = planeAt(artwork, at)
  const node = new GraphCompiler(artwork, kernels.hash).compile({ type: 'painted', at, by })
  if (!there || node.kind === 'empty') throw new QuillError('paint-refused', 'There is nothing painted that could be brought along.')
  const same = tableIn(kernels, 'mask of tones', () => Uint16Array.from({ length: 65536 }, (_, v) => v))
  const take: Take =
    there.channels === 1
      ? (src, stride, dst, w, h) => kernels.raw.lumaMask(src, stride, dst, PLANE_TILE * 2, w, h, same)
      : (src, stride, dst, w, h) => kernels.raw.copyRect(src, stride, dst, PLANE_TILE * 8, w * 8, h)
  const { x, y, w, h } = node.extent
  return planeOf(engine, { x, y, w, h }, emptyPlane(there.channels), blankAt(artwork, at), node, take, signal, digest ?? named)
}

/** A plane out of an area of the sheet, in the space of what is painted at a place. @param area its plane */
export function areaPlane(
  engine: Engine,
  artwork: Artwork,
  plane: Plane,
  blank: Entry,
  at: PlaneAddress,
  area: string,
  signal: Signal,
  digest?: Digest,
): Promise<Painted> {
  const { kernels } = engine
  const { way, within } = planeSpace(artwork, at)
  const by = inverse(way) ?? undefined
  const node = new GraphCompiler(artwork, kernels.hash).compile({ type: 'area', plane: area, ...(by ? { by } : {}) })
  const same = tableIn(kernels, 'mask of tones', () => Uint16Array.from({ length: 65536 }, (_, v) => v))
  const take: Take = (src, stride, dst, w, h) => kernels.raw.lumaMask(src, stride, dst, PLANE_TILE * 2, w, h, same)
  return planeOf(engine, within, plane, blank, node, take, signal, digest ?? named)
}

/** A plane of one channel: what a step fills, in the space that it draws in. @throws QuillError as stepLines */
export async function blacksPlane(
  engine: Engine,
  artwork: Artwork,
  plane: Plane,
  blank: Entry,
  at: PlaneAddress,
  { layer, step }: { layer: string; step: string },
  signal: Signal,
  digest: Digest = named,
): Promise<Painted> {
  const { kernels, planes } = engine
  const { areas, areaStarts } = (await stepLines(engine, artwork, layer, step, signal)).marks
  const path = Array.from({ length: areaStarts.length - 1 }, (_, k) =>
    polygon(
      Array.from({ length: areaStarts[k + 1]! - areaStarts[k]! }, (_, i) => ({ x: areas[(areaStarts[k]! + i) * 2]!, y: areas[(areaStarts[k]! + i) * 2 + 1]! })),
    ),
  )
  const { points, counts } = edgesOf(path, 0)
  const { within } = planeSpace(artwork, at)
  const maker = new PlaneMaker(kernels, planes, plane, blank, digest)
  const edges = kernels.allocator.alloc(points.byteLength + counts.byteLength + 16)
  const tile = kernels.allocator.alloc(tileBytes(1))
  try {
    const all = new Int32Array(kernels.memory.buffer, edges, points.length + counts.length)
    all.set(points)
    all.set(counts, points.length)
    for (const { tx, ty, x, y } of tilesIn(within)) {
      if (signal.cancelled) throw new QuillError('cancelled', 'Stopped.')
      kernels.raw.pathCover(edges, edges + points.byteLength, counts.length, x, y, PLANE_TILE, PLANE_TILE, 0, tile, PLANE_TILE * 2)
      await maker.keep(tile, tx, ty)
    }
  } finally {
    kernels.allocator.free(tile)
    kernels.allocator.free(edges)
  }
  return maker.end(within)
}

/** A plane of four channels out of what a target shows: its pixels, for good. */
export function pixelPlane(
  engine: Engine,
  artwork: Artwork,
  plane: Plane,
  blank: Entry,
  target: Target,
  signal: Signal,
  digest: Digest = named,
): Promise<Painted> {
  const { raw, hash } = engine.kernels
  const node = new GraphCompiler(artwork, hash).compile(target)
  return planeOf(
    engine,
    artwork.sheet,
    plane,
    blank,
    node,
    (src, stride, dst, w, h) => raw.copyRect(src, stride, dst, PLANE_TILE * 8, w * 8, h),
    signal,
    digest,
  )
}

/** A plane of what a node shows within a region, row of tiles by row of tiles. */
export async function planeOf(
  engine: Engine,
  within: Region,
  plane: Plane,
  blank: Entry,
  node: Node,
  take: Take,
  signal: Signal,
  digest: Digest,
): Promise<Painted> {
  const { kernels, planes } = engine
  const { channels } = plane
  const sample = channels * 2
  const maker = new PlaneMaker(kernels, planes, plane, blank, digest)
  const bytes = tileBytes(channels)
  for (let y = Math.floor(within.y / PLANE_TILE) * PLANE_TILE; y < within.y + within.h; y += PLANE_TILE) {
    const row = intersect({ x: within.x, y, w: within.w, h: PLANE_TILE }, within)
    const all = fresh(kernels, row)
    try {
      await engine.bands(node, 0, row, (pic) => paste(kernels, pic, all, pic.region), { signal, keep: 'render' })
      for (const tile of tilesIn(row)) {
        const part = intersect(tile, row)
        if (isEmpty(part)) continue
        const ptr = kernels.allocator.alloc(bytes)
        try {
          if (part.w < PLANE_TILE || part.h < PLANE_TILE) {
            const stride = PLANE_TILE * sample
            if (channels === 1) kernels.raw.fillGrey(ptr, stride, PLANE_TILE, PLANE_TILE, Number(constantOf(blank)))
            else kernels.raw.fillRect(ptr, stride, PLANE_TILE, PLANE_TILE, BigInt.asIntN(64, constantOf(blank)))
          }
          const src = all.ptr + (part.y - row.y) * all.stride + (part.x - row.x) * 8
          take(src, all.stride, ptr + (part.y - tile.y) * PLANE_TILE * sample + (part.x - tile.x) * sample, part.w, part.h)
          await maker.keep(ptr, tile.tx, tile.ty)
        } finally {
          kernels.allocator.free(ptr)
        }
      }
    } finally {
      all.done()
    }
  }
  return maker.end(within)
}
