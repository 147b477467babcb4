import { QuillError } from '../base/errors.ts'
import type { Region } from '../base/region.ts'
import { identity, inverse, kindOf, mapped, scaled, times, type Matrix, type Point } from '../base/transform.ts'
import type { Length } from '../steps/params/index.ts'
import { stepAt } from '../steps/registry.ts'
import { checkSheet } from './bounds.ts'
import { studyParts } from '../base/study-parts.ts'
import { allLayers, isPainted, madeOfBelow } from './layers.ts'
import { AREA, mendedIn, planeAt, sameAddress, setPlane, type PlaneAddress, type PlaneRef } from './planes.ts'
import type { Artwork, Layer, StepUse } from './schema.ts'

// What is done to the sheet: its frame moved, all of it made larger or smaller, turned. Changes are made in place, on a draft.

/** Below this, pixels, there is nothing to look at. */
export const SHORTEST_SIDE = 8
/** A frame lies no further off than this. */
const FARTHEST = 1_000_000

/** Ratios that prints and screens have, long side first. Common practice: the A series is 1 : √2 (ISO 216), photographs 2 : 3, frames 4 : 5 and 5 : 7. */
export const RATIOS: readonly { name: string; ratio: number }[] = [
  { name: 'A series', ratio: Math.SQRT2 },
  { name: '3 : 2', ratio: 3 / 2 },
  { name: '4 : 3', ratio: 4 / 3 },
  { name: '5 : 4', ratio: 5 / 4 },
  { name: '7 : 5', ratio: 7 / 5 },
  { name: '16 : 9', ratio: 16 / 9 },
  { name: 'Square', ratio: 1 },
]

/** @throws QuillError `param-invalid`, `artwork-too-large` */
function checkFrame({ x, y, w, h }: Region): void {
  if (![x, y, w, h].every(Number.isInteger) || Math.abs(x) > FARTHEST || Math.abs(y) > FARTHEST)
    throw new QuillError('param-invalid', 'A frame lies on whole pixels, somewhere near the picture. It is left as it was.')
  if (w < SHORTEST_SIDE || h < SHORTEST_SIDE)
    throw new QuillError('param-invalid', `A sheet of ${w} × ${h} pixels shows nothing; a side has at least ${SHORTEST_SIDE}. It is left as it was.`)
  checkSheet({ w, h })
}

const whole = ({ x, y, w, h }: Region): Region => ({ x, y, w, h })

/** Moves the frame; all that it leaves out stays. Throws as checkFrame. */
export function setFrame(draft: Artwork, frame: Region): void {
  checkFrame(frame)
  const { x, y, w, h } = frame
  Object.assign(draft.sheet, { x, y, w, h })
  const { lookSpot } = draft
  draft.lookSpot = { x: Math.min(x + w, Math.max(x, lookSpot.x)), y: Math.min(y + h, Math.max(y, lookSpot.y)) }
}

/** The sheet that is `w` pixels wide, all that is on it scaled alike. */
export function resizedSheet({ x, y, w, h }: Region, wide: number): Region {
  const by = wide / w
  return { x: Math.round(x * by) + 0, y: Math.round(y * by) + 0, w: Math.round(wide), h: Math.round(h * by) }
}

/** Every place where something is painted. */
export function paintedPlaces(artwork: Pick<Artwork, 'layers' | 'area' | 'areas'>): PlaneAddress[] {
  const found: PlaneAddress[] = []
  for (const layer of allLayers(artwork.layers)) {
    const at = (part: PlaneAddress['part'], step: string | null = null) => found.push({ layer: layer.id, step, part })
    if (layer.source.type === 'paint' && layer.source.plane) at('paint')
    for (const { id, cover } of mendedIn(layer)) if (cover) at('mend', id)
    if (layer.mask?.plane && !layer.mask.live) at('mask')
    if (layer.lightMap?.plane) at('light')
    for (const part of studyParts) if (layer.study?.[part]) at(part)
    for (const use of layer.chain) if (use.mask?.plane && !use.mask.live) at('mask', use.id)
  }
  if (artwork.area) found.push(AREA)
  for (const { id, plane } of artwork.areas) if (plane) found.push({ ...AREA, layer: id })
  return found
}

/** Those whose paint lies on the sheet itself, so that turning the layers does not turn it. */
export function placesOnSheet(artwork: Artwork): PlaneAddress[] {
  const top = new Map(artwork.layers.map((l) => [l.id, l]))
  return paintedPlaces(artwork).filter(({ layer: id, step, part }) => {
    if (part === 'area') return true
    const layer = top.get(id)
    if (!layer) return false
    const mask = part === 'mask' ? (step === null ? layer.mask : layer.chain.find((s) => s.id === step)?.mask) : null
    return mask?.stays === true || madeOfBelow(layer)
  })
}

/** What was painted at a place, as it is after the change. */
export interface PlaneChange {
  at: PlaneAddress
  plane: PlaneRef | null
}

/** @throws QuillError `paint-refused` where a plane that has to change is not given */
function putPlanes(draft: Artwork, wanted: readonly PlaneAddress[], given: readonly PlaneChange[]): void {
  for (const at of wanted) {
    const found = given.find((g) => sameAddress(g.at, at))
    const now = planeAt(draft, at)
    if (!found || (found.plane && found.plane.channels !== now?.channels))
      throw new QuillError('paint-refused', 'What is painted could not be brought along. Nothing was changed; try again on the bench.', { layer: at.layer })
    setPlane(draft, at, found.plane)
  }
}

/**
 * Makes the sheet so many pixels wide, with all that is on it: photos are shown larger or smaller, and what is made of them is made anew at that size;
 * placements, places and lengths in pixels scale; those in % and mm stay what they are.
 * @param planes all that is painted, scaled likewise
 * @throws QuillError as checkFrame, `paint-refused`
 */
export function resizeArtwork(draft: Artwork, wide: number, planes: readonly PlaneChange[]): void {
  const to = resizedSheet(draft.sheet, wide)
  checkFrame(to)
  const by = to.w / draft.sheet.w
  if (by === 1) return
  putPlanes(draft, paintedPlaces(draft), planes)
  const { field } = draft
  Object.assign(draft.sheet, to)
  draft.field = resizedBox(field, by)
  draft.reference *= by
  draft.lookSpot = { x: draft.lookSpot.x * by, y: draft.lookSpot.y * by }
  for (const g of draft.guides) g.at *= by
  for (const pin of draft.pins) Object.assign(pin, { x: pin.x * by, y: pin.y * by, radius: longer(pin.radius, by) })
  const [there, back] = [scaled(by), scaled(1 / by)]
  for (const layer of allLayers(draft.layers)) {
    const { source, placement } = layer
    placement.matrix = [...times(there, times(placement.matrix as Matrix, back))] as Layer['placement']['matrix']
    if (placement.pivot) placement.pivot = { x: placement.pivot.x * by, y: placement.pivot.y * by }
    if (source.type === 'photo') {
      const { w, h } = shownSize(source)
      const size = { w: Math.max(1, Math.round(w * by)), h: Math.max(1, Math.round(h * by)) }
      if (size.w === source.width && size.h === source.height) delete source.shown
      else source.shown = size
    }
    if (source.type === 'panels') {
      if (source.box) source.box = resizedBox(source.box, by)
      source.gutter = longer(source.gutter, by)
      source.margin = longer(source.margin, by)
    }
    if (source.type === 'paper') source.width = longer(source.width, by)
    for (const m of mendedIn(layer)) Object.assign(m, { dx: pixels(m.dx * by), dy: pixels(m.dy * by) })
    if (source.type === 'ink') source.scale = (source.scale ?? 1) * by
    scaleMask(layer.mask, by)
    for (const use of layer.chain) {
      scaleMask(use.mask, by)
      use.params = scaledParams(use, by)
    }
  }
  for (const use of draft.recipes) {
    for (const c of use.controls)
      for (const d of c.drives) if (d.unit === 'px' && d.map) d.map = d.map.map(([v, out]) => [v, tidy(out * by)] as [number, number])
  }
}

const pixels = (v: number) => Math.round(v) + 0
const resizedBox = ({ x, y, w, h }: Region, by: number): Region => ({
  x: Math.round(x * by) + 0,
  y: Math.round(y * by) + 0,
  w: Math.max(1, Math.round(w * by)),
  h: Math.max(1, Math.round(h * by)),
})

/** How large a photo is shown, in pixels of its layer. */
export const shownSize = ({ width, height, shown }: Extract<Layer['source'], { type: 'photo' }>): { w: number; h: number } => shown ?? { w: width, h: height }

const tidy = (v: number) => Number(v.toPrecision(6))
const longer = <L extends Length>(length: L, by: number): L => (length.unit === 'px' ? { ...length, value: tidy(length.value * by) } : length)

function scaleMask(mask: Layer['mask'], by: number): void {
  if (!mask) return
  if (mask.edge.unit === 'px') mask.edge.move = tidy(mask.edge.move * by)
  mask.edge.soften = longer(mask.edge.soften, by)
}

/** The parameters of a step, its lengths in pixels so many times as long. */
function scaledParams(use: StepUse, by: number): StepUse['params'] {
  const { params } = stepAt(use.step, use.version)
  return Object.fromEntries(
    Object.entries(use.params).map(([name, value]) => [name, params[name]?.type === 'length' && value ? longer(value as Length, by) : value]),
  )
}

/**
 * Turns all that is on the sheet by a matrix, and moves the frame. Plain fills and papers stay as they are; screens, grain and light keep their ways.
 * @param planes what is painted on the sheet itself, turned likewise
 * @throws QuillError as checkFrame, `paint-refused`
 */
export function turnArtwork(draft: Artwork, by: Matrix, frame: Region, planes: readonly PlaneChange[]): void {
  checkFrame(frame)
  const back = inverse(by)
  if (!back) throw new QuillError('param-invalid', 'The sheet cannot be turned like that. It is left as it was.')
  putPlanes(draft, placesOnSheet(draft), planes)
  for (const layer of draft.layers) {
    const { source, placement } = layer
    if ((source.type === 'fill' || source.type === 'paper') && !isPainted(layer) && kindOf(placement.matrix) === 'still') continue
    const matrix = placement.matrix as Matrix
    // what is taken from afar turns with what lies there
    for (const m of mendedIn(layer)) Object.assign(m, { dx: pixels(by[0] * m.dx + by[1] * m.dy), dy: pixels(by[3] * m.dx + by[4] * m.dy) })
    const next = madeOfBelow(layer) ? times(by, times(matrix, back)) : times(by, matrix)
    placement.matrix = [...steady(next)] as Layer['placement']['matrix']
  }
  const upright = (m: Matrix) => (m[1] === 0 && m[3] === 0 ? 'kept' : m[0] === 0 && m[4] === 0 ? 'changed' : null)
  const way = upright(by)
  if (way) {
    for (const g of draft.guides) {
      const p = mapped(by, g.axis === 'upright' ? { x: g.at, y: 0 } : { x: 0, y: g.at })!
      if (way === 'changed') g.axis = g.axis === 'upright' ? 'level' : 'upright'
      g.at = g.axis === 'upright' ? p.x : p.y
    }
  }
  draft.lookSpot = mapped(by, draft.lookSpot) ?? draft.lookSpot
  for (const pin of draft.pins) Object.assign(pin, mapped(by, pin) ?? {})
  setFrame(draft, frame)
}

/** Without −0, and an identity that has come about by rounding. */
const steady = (m: Matrix): Matrix => {
  const plain = m.map((v) => v + 0) as unknown as Matrix
  return kindOf(plain) === 'still' ? identity : plain
}

/** The sheet turned by a quarter, clockwise or not, or flipped: the way there, and the frame then. Its upper left corner stays. */
export function turnedSheet(sheet: Region, how: 'clockwise' | 'counter-clockwise' | 'across' | 'down' | 'half'): { by: Matrix; frame: Region } {
  const { x, y, w, h } = whole(sheet)
  switch (how) {
    case 'clockwise':
      return { by: [0, -1, x + y + h, 1, 0, y - x, 0, 0, 1], frame: { x, y, w: h, h: w } }
    case 'counter-clockwise':
      return { by: [0, 1, x - y, -1, 0, y + x + w, 0, 0, 1], frame: { x, y, w: h, h: w } }
    case 'half':
      return { by: [-1, 0, 2 * x + w, 0, -1, 2 * y + h, 0, 0, 1], frame: { x, y, w, h } }
    case 'across':
      return { by: [-1, 0, 2 * x + w, 0, 1, 0, 0, 0, 1], frame: { x, y, w, h } }
    case 'down':
      return { by: [1, 0, 0, 0, -1, 2 * y + h, 0, 0, 1], frame: { x, y, w, h } }
  }
}

/** Degrees by which a line between two points is off the level or the plumb line that it is nearer to; −45 … 45, clockwise. */
export function offLevel(a: Point, b: Point): number {
  const angle = (Math.atan2(b.y - a.y, b.x - a.x) * 180) / Math.PI
  return angle - Math.round(angle / 90) * 90 + 0
}

/**
 * The sheet straightened: all on it turned back about its middle by what a line is off.
 * @param drawnIn the frame keeps its ratio and becomes the largest that has no blank corner, if the sheet was full
 */
export function straightenedSheet(sheet: Region, degrees: number, drawnIn: boolean): { by: Matrix; frame: Region } {
  const { x, y, w, h } = whole(sheet)
  const c = { x: x + w / 2, y: y + h / 2 }
  const radians = (-degrees * Math.PI) / 180
  const [cos, sin] = [Math.cos(radians), Math.sin(radians)]
  const by: Matrix = [cos, -sin, c.x - cos * c.x + sin * c.y, sin, cos, c.y - sin * c.x - cos * c.y, 0, 0, 1]
  if (!drawnIn) return { by, frame: { x, y, w, h } }
  // half the frame's sides, turned, within half the sheet's
  const [a, b] = [Math.abs(cos), Math.abs(sin)]
  const k = Math.min(w / (w * a + h * b), h / (w * b + h * a))
  const [fw, fh] = [Math.floor(w * k + 1e-9), Math.floor(h * k + 1e-9)]
  return { by, frame: { x: Math.round(c.x - fw / 2), y: Math.round(c.y - fh / 2), w: fw, h: fh } }
}

/** The largest frame of a ratio (width to height) in the middle of a region. */
export function framedIn({ x, y, w, h }: Region, ratio: number): Region {
  const wide = w / h > ratio
  const [fw, fh] = wide ? [Math.max(1, Math.round(h * ratio)), h] : [w, Math.max(1, Math.round(w / ratio))]
  return { x: x + Math.round((w - fw) / 2), y: y + Math.round((h - fh) / 2), w: fw, h: fh }
}

/** Which part of a frame is dragged: −1 left or upper, 1 right or lower, 0 neither; 0, 0: all of it. */
export interface FrameGrip {
  x: -1 | 0 | 1
  y: -1 | 0 | 1
}

/**
 * A frame dragged by an edge, a corner, or as a whole, on whole pixels; what is not dragged stays where it is (with a ratio: the middle of it).
 * @param ratio width to height that it keeps; null: free
 */
export function draggedFrame(from: Region, grip: FrameGrip, dx: number, dy: number, ratio: number | null): Region {
  const least = SHORTEST_SIDE
  if (grip.x === 0 && grip.y === 0) return { ...whole(from), x: from.x + Math.round(dx), y: from.y + Math.round(dy) }
  let w = Math.max(least, from.w + grip.x * dx)
  let h = Math.max(least, from.h + grip.y * dy)
  if (ratio !== null) {
    if (grip.y === 0 || (grip.x !== 0 && w / from.w > h / from.h)) h = w / ratio
    else w = h * ratio
    if (Math.min(w, h) < least) [w, h] = ratio > 1 ? [least * ratio, least] : [least, least / ratio]
  }
  const [fw, fh] = [Math.round(w), Math.round(h)]
  const place = (at: number, size: number, now: number, side: number) => (side > 0 ? at : side < 0 ? at + size - now : Math.round(at + (size - now) / 2))
  return { x: place(from.x, from.w, fw, grip.x), y: place(from.y, from.h, fh, grip.y), w: fw, h: fh }
}

/** The frame that is so large, while a point of it (in shares of its sides) stays where it is. */
export function grownFrame({ x, y, w, h }: Region, size: { w: number; h: number }, pivot: Point): Region {
  const [fw, fh] = [Math.round(size.w), Math.round(size.h)]
  return { x: x + Math.round((w - fw) * pivot.x) + 0, y: y + Math.round((h - fh) * pivot.y) + 0, w: fw, h: fh }
}

/** Where all that is on the sheet lies: what a frame could be moved to without looking at nothing. */
export const contentOf = (artwork: Artwork, boxOf: (layer: Layer) => Region | null): Region => {
  let [x0, y0, x1, y1] = [Infinity, Infinity, -Infinity, -Infinity]
  for (const layer of artwork.layers) {
    const box = layer.visible ? boxOf(layer) : null
    if (!box) continue
    x0 = Math.min(x0, box.x)
    y0 = Math.min(y0, box.y)
    x1 = Math.max(x1, box.x + box.w)
    y1 = Math.max(y1, box.y + box.h)
  }
  const { x, y, w, h } = artwork.sheet
  if (!(x1 > x0 && y1 > y0)) return { x, y, w, h }
  return { x: Math.floor(x0), y: Math.floor(y0), w: Math.ceil(x1) - Math.floor(x0), h: Math.ceil(y1) - Math.floor(y0) }
}
