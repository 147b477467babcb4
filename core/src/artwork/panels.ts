import { QuillError } from '../base/errors.ts'
import type { Region } from '../base/region.ts'
import { harmony, harmonies, type HarmonyId } from '../colour/harmony.ts'
import { resolveLength, type Length, type LengthSpec, type Scale } from '../steps/params/index.ts'
import { dealt } from '../strokes/tips.ts'
import { stepOfColourway, type Colourway } from './colourways.ts'
import { kindOf, times, type Matrix } from '../base/transform.ts'
import { checkSheet } from './bounds.ts'
import { freshId, locate, newLayer, newStep } from './layers.ts'
import type { Artwork, Layer, Source } from './schema.ts'
import { ownExtent } from './spaces.ts'

// Panel sheets: one picture in rows and columns, each panel in a colourway.

export type PanelSource = Extract<Source, { type: 'panels' }>

/** One panel: where it lies, in artwork pixels, and what it shows. */
export interface Panel {
  row: number
  column: number
  region: Region
  /** null: as the picture is. */
  colourway: string | null
  locked: boolean
  /** A layer that stands there instead. */
  own: string | null
}

/** Gutters and margins are as wide as lengths are elsewhere. */
const GAP = { type: 'length', min: 0, max: 20000, default: { value: 0, unit: 'px' } } as LengthSpec
const gapOf = (length: Length, scale: Scale) => Math.round(resolveLength(GAP, length, scale))

const scaleOf = (artwork: Pick<Artwork, 'sheet' | 'reference'>): Scale => ({ ppi: artwork.sheet.ppi, reference: artwork.reference })

/** A panel sheet as it begins: over all of the sheet, edge to edge. */
export const newPanels = (of: string | null, rows: number, columns: number, colourways: readonly string[], box: Region): PanelSource => ({
  type: 'panels',
  of,
  rows,
  columns,
  gutter: { value: 0, unit: 'mm' },
  margin: { value: 0, unit: 'mm' },
  backing: '#ffffff',
  keeps: 'sheet',
  screens: 'shrink',
  deal: 0,
  colourways: [...colourways],
  panels: [],
  box: { ...box },
})

/** What is repeated: its rectangle in its own space. */
export function panelPicture(artwork: Artwork, source: PanelSource): Region {
  if (source.of !== null) return ownExtent(artwork, locate(artwork.layers, source.of).layer)
  return boxOf(artwork, source)
}

/** The rectangle that the panels fill. */
export const boxOf = ({ sheet: { x, y, w, h } }: Pick<Artwork, 'sheet'>, source: PanelSource): Region => source.box ?? { x, y, w, h }

/** How large a panel is, and from one to the next. */
export interface PanelGrid {
  x: number
  y: number
  w: number
  h: number
  stepX: number
  stepY: number
}

/**
 * Where the panels lie. Sides are whole pixels, all alike; what is left over is added to the margins. Where gutters and margins leave no room they are 0.
 */
export function panelGrid(artwork: Artwork, source: PanelSource): PanelGrid {
  const { rows, columns } = source
  const box = boxOf(artwork, source)
  const [gutter, margin] = [gapOf(source.gutter, scaleOf(artwork)), gapOf(source.margin, scaleOf(artwork))]
  const w = Math.max(0, Math.floor((box.w - 2 * margin - (columns - 1) * gutter) / columns))
  const h = Math.max(0, Math.floor((box.h - 2 * margin - (rows - 1) * gutter) / rows))
  const left = (size: number, all: number) => Math.floor((size - all) / 2)
  return {
    x: box.x + left(box.w, columns * w + (columns - 1) * gutter),
    y: box.y + left(box.h, rows * h + (rows - 1) * gutter),
    w,
    h,
    stepX: w + gutter,
    stepY: h + gutter,
  }
}

/**
 * How the picture is laid in a panel that begins at (0, 0): covering it, its middle in the middle; one that is as large as the picture, or half as large,
 * pixel by pixel.
 */
export function panelMatrix(picture: Region, { w, h }: { w: number; h: number }): Matrix {
  const by = Math.max(w / picture.w, h / picture.h)
  const half = Math.abs(by - 0.5) * Math.max(picture.w, picture.h) < 0.5
  const k = half ? 0.5 : by
  const place = (v: number) => (half || by === 1 ? Math.round(v) : v) + 0
  return [k, 0, place((w - picture.w * k) / 2 - picture.x * k), 0, k, place((h - picture.h * k) / 2 - picture.y * k), 0, 0, 1]
}

/** The box in which each panel is as large as the picture. */
export function fullBox(artwork: Artwork, source: PanelSource): Region {
  const { rows, columns } = source
  const { w, h } = panelPicture(artwork, { ...source, of: source.of })
  const [gutter, margin] = [gapOf(source.gutter, scaleOf(artwork)), gapOf(source.margin, scaleOf(artwork))]
  const box = boxOf(artwork, source)
  return { x: box.x, y: box.y, w: columns * w + (columns - 1) * gutter + 2 * margin, h: rows * h + (rows - 1) * gutter + 2 * margin }
}

/** Which colourway each panel is dealt, by rows: each as often as the others, neighbours unlike where that can be. */
export function dealtColourways({ rows, columns, colourways, deal }: PanelSource): (string | null)[] {
  const n = colourways.length
  if (n === 0) return Array.from({ length: rows * columns }, () => null)
  // deal 0: in their order
  if (deal === 0) return Array.from({ length: rows * columns }, (_, i) => colourways[i % n]!)
  const out: string[] = []
  let hand: string[] = []
  for (let i = 0; i < rows * columns; i++) {
    if (hand.length === 0)
      hand = colourways
        .map((id, k) => ({ id, by: dealt(k, out.length, deal) }))
        .sort((a, b) => a.by - b.by || (a.id < b.id ? -1 : 1))
        .map((c) => c.id)
    const beside = [i % columns ? out[i - 1] : undefined, out[i - columns]]
    const k = hand.findIndex((id) => !beside.includes(id))
    out.push(...hand.splice(Math.max(0, k), 1))
  }
  return out
}

/** Every panel, by rows. */
export function panelsOf(artwork: Artwork, source: PanelSource): Panel[] {
  const grid = panelGrid(artwork, source)
  const dealtOnes = dealtColourways(source)
  const said = new Map(source.panels.map((p) => [p.row * 12 + p.column, p]))
  const there = new Set(artwork.colourways.map((c) => c.id))
  return dealtOnes.map((colourway, i): Panel => {
    const [row, column] = [Math.floor(i / source.columns), i % source.columns]
    const own = said.get(row * 12 + column)
    const id = own ? own.colourway : colourway
    return {
      row,
      column,
      region: { x: grid.x + column * grid.stepX, y: grid.y + row * grid.stepY, w: grid.w, h: grid.h },
      colourway: id !== null && there.has(id) ? id : null,
      locked: own?.locked ?? false,
      own: own?.own ?? null,
    }
  })
}

/** Colourways that turn all hues, evenly round the circle. */
export const turnedHues = (count: number): Colourway[] =>
  Array.from({ length: count }, (_, i) => {
    const degrees = Math.round((i * 360) / count)
    return { id: freshId(), name: i === 0 ? 'As it is' : `Hue ${degrees}°`, change: { type: 'hue', degrees } }
  })

/** Colourways of a harmony, begun at hues evenly round the circle. @param colours of each palette; first: hue that the first begins with */
export const harmonious = (id: HarmonyId, count: number, colours: number, first = 20): Colourway[] =>
  Array.from({ length: count }, (_, i) => {
    const hue = Math.round(first + (i * 360) / count) % 360
    return { id: freshId(), name: `${harmonies[id].title}, from ${hue}°`, change: { type: 'palette', colours: harmony(id, hue, colours) } }
  })

/** What can be changed of a panel sheet by a control. */
export type PanelChange = Partial<Omit<PanelSource, 'type'>>

/**
 * Changes a panel sheet in place; where its panels keep their size, its box and the frame grow with them.
 * @throws QuillError `command-refused`, `param-invalid`, `artwork-too-large`
 */
export function setPanels(draft: Artwork, layer: Layer, change: PanelChange): void {
  if (layer.source.type !== 'panels') throw new QuillError('command-refused', `“${layer.name}” is not a panel sheet.`)
  const now: PanelSource = { ...(JSON.parse(JSON.stringify(layer.source)) as PanelSource), ...structuredClone(change) }
  const whole = (v: number) => Number.isInteger(v) && v >= 1 && v <= 12
  if (!whole(now.rows) || !whole(now.columns)) throw new QuillError('param-invalid', 'A panel sheet has 1 to 12 rows and columns. It is left as it was.')
  if (![now.gutter, now.margin].every((l) => Number.isFinite(l.value) && l.value >= 0))
    throw new QuillError('param-invalid', 'Gutters and margins are 0 or wider. They are left as they were.')
  now.panels = now.panels.filter((p) => p.row < now.rows && p.column < now.columns)
  const plain = JSON.parse(JSON.stringify(draft)) as Artwork
  if (now.keeps === 'panels') {
    const box = fullBox(plain, now)
    checkSheet(box)
    const framed = sameBox(draft.sheet, boxOf(plain, layer.source))
    now.box = box
    if (framed) Object.assign(draft.sheet, box)
  }
  const { w, h } = panelGrid({ ...plain, sheet: { ...plain.sheet, ...now.box } }, now)
  if (w < 1 || h < 1)
    throw new QuillError(
      'command-refused',
      `${now.rows} × ${now.columns} panels with these gutters and margins have no room on the sheet. Nothing was changed.`,
    )
  layer.source = now
}
const sameBox = (a: Region, b: Region) => a.x === b.x && a.y === b.y && a.w === b.w && a.h === b.h

/** Entries of single panels, one of them changed. */
export function withPanel(
  artwork: Artwork,
  source: PanelSource,
  row: number,
  column: number,
  change: Partial<Pick<Panel, 'colourway' | 'locked' | 'own'>>,
): PanelSource['panels'] {
  const now = panelsOf(artwork, source).find((p) => p.row === row && p.column === column)
  if (!now) return source.panels
  const entry = { row, column, colourway: now.colourway, locked: now.locked, own: now.own, ...change }
  return [...source.panels.filter((p) => p.row !== row || p.column !== column), entry]
}

/** Entries after two panels changed their colourways. */
export function swappedPanels(
  artwork: Artwork,
  source: PanelSource,
  a: Pick<Panel, 'row' | 'column'>,
  b: Pick<Panel, 'row' | 'column'>,
): PanelSource['panels'] {
  const all = panelsOf(artwork, source)
  const at = (p: Pick<Panel, 'row' | 'column'>) => all.find((q) => q.row === p.row && q.column === p.column)!
  const first = withPanel(artwork, source, a.row, a.column, { colourway: at(b).colourway })
  return withPanel(artwork, { ...source, panels: first }, b.row, b.column, { colourway: at(a).colourway })
}

/**
 * A panel taken out: a live layer of its own over the panel sheet, in its colourway, to be edited by hand; the panel sheet leaves it its place. In place.
 * @throws QuillError `command-refused` where the sheet repeats what lies below, or the panel is out already
 */
export function takePanelOut(draft: Artwork, layer: Layer, row: number, column: number, id: string): void {
  const { source } = layer
  if (source.type !== 'panels') throw new QuillError('command-refused', `“${layer.name}” is not a panel sheet.`)
  if (source.of === null)
    throw new QuillError('command-refused', 'Panels of all that lies below cannot be taken out one by one. Group the layers below, and repeat the group.')
  const plain = JSON.parse(JSON.stringify(draft)) as Artwork
  const plainSource = JSON.parse(JSON.stringify(source)) as PanelSource
  const panel = panelsOf(plain, plainSource).find((p) => p.row === row && p.column === column)
  if (!panel || panel.own !== null || panel.region.w < 1 || panel.region.h < 1)
    throw new QuillError('command-refused', 'There is no such panel, or it was taken out already.')
  const { x, y, w, h } = panel.region
  const way = plain.colourways.find((c) => c.id === panel.colourway)
  const step = way && stepOfColourway(way)
  const chain = step ? [{ ...newStep(step.def.id), version: step.def.version, params: { ...step.params } }] : []
  const matrix = times([1, 0, x, 0, 1, y, 0, 0, 1], panelMatrix(panelPicture(plain, plainSource), { w, h }))
  const own: Layer = {
    ...newLayer(`Panel ${row + 1}, ${column + 1}`, { type: 'live', layer: source.of }, chain, id),
    placement: { matrix: [...matrix] as Layer['placement']['matrix'], pivot: null },
  }
  const laid = layer.placement.matrix as Matrix
  if (kindOf(laid) !== 'still') own.placement.matrix = [...times(laid, matrix)] as Layer['placement']['matrix']
  source.panels = withPanel(plain, plainSource, row, column, { own: id })
  const { list, index } = locate(draft.layers, layer.id)
  list.splice(index + 1, 0, own)
}
