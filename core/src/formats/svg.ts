import { Clipper, type Path64 } from 'clipper2-ts'
import type { Marks } from '../paths/marks.ts'

// Files of lines: SVG 1.1 (W3C Recommendation, 2011), in millimetres, for a pen, a knife or another program that draws.

// taken once: loops over places look nothing up
const { max, min, round, sqrt } = Math

/** Micrometres a millimetre: coordinates are whole numbers of them. */
const UNITS = 1000
/** Parts of a pixel that places of marks are rounded to. */
const PARTS = 256
/** Below this breadth (micrometres) nothing is cut or drawn. */
const THINNEST = 2

/** The lines of one step of one layer. */
export interface LineGroup {
  /** The layer, and what drew them there. */
  layer: string
  title: string
  /** #rrggbb */
  colour: string
  marks: Marks
  /** Where there is something to draw on, full-size pixels of the marks. */
  extent: { x: number; y: number; w: number; h: number }
  /** Weight → how much of the colour lies there, 0…1. */
  laid: (weight: number) => number
  /** Where a full-size pixel of the marks lies on the sheet, pixels of it, and how much larger it is there; null beyond the horizon. */
  place: (x: number, y: number) => { x: number; y: number; scale: number } | null
}

export interface LineFile {
  title: string
  /** The frame, sheet pixels, and its pixels an inch. */
  sheet: { x: number; y: number; w: number; h: number; ppi: number }
  groups: readonly LineGroup[]
  /** As shapes that are as broad as they are drawn, or as the lines in their middle with one breadth each. */
  as: 'shapes' | 'centre lines'
}

const escaped = (text: string): string =>
  text
    // what XML 1.0 has no place for
    // eslint-disable-next-line no-control-regex
    .replace(/[\u0000-\u0008\u000b\u000c\u000e-\u001f\ufffe\uffff]/g, '')
    .replace(/&/g, '&amp;')
    .replace(/</g, '&lt;')
    .replace(/>/g, '&gt;')
    .replace(/"/g, '&quot;')

/** Millimetres in as few characters as they go: “.05”, “-3”, “12.345”. */
const mm = (units: number): string => String(units / UNITS).replace(/^(-?)0\./, '$1.')

/** Whole micrometres one after another as SVG path data: the first place, then steps, which add up exactly. */
function data(path: Path64, closed: boolean): string {
  let text = `M${mm(path[0]!.x)} ${mm(path[0]!.y)}l`
  let [x, y] = [path[0]!.x, path[0]!.y]
  for (let i = 1; i < path.length; i++) {
    const p = path[i]!
    const [dx, dy] = [mm(p.x - x), mm(p.y - y)]
    text += `${i > 1 && dx[0] !== '-' ? ' ' : ''}${dx}${dy[0] === '-' ? '' : ' '}${dy}`
    x = p.x
    y = p.y
  }
  return closed ? `${text}z` : text
}

/** The rim of a mark: along one side and back along the other, square to the way at each place; full-size pixels. */
function rim(points: Float32Array, from: number, to: number): Point[] {
  const [left, right]: [Point[], Point[]] = [[], []]
  for (let i = from; i < to; i++) {
    const [a, b] = [max(from, i - 1) * 4, min(to - 1, i + 1) * 4]
    const [dx, dy] = [points[b]! - points[a]!, points[b + 1]! - points[a + 1]!]
    const [x, y, half] = [points[i * 4]!, points[i * 4 + 1]!, points[i * 4 + 2]!]
    const by = half / (sqrt(dx * dx + dy * dy) || 1)
    left.push({ x: x - dy * by, y: y + dx * by })
    right.push({ x: x + dy * by, y: y - dx * by })
  }
  return [...left, ...right.reverse()]
}

interface Point {
  x: number
  y: number
}

/** A line without places that lie on the one before. */
const spaced = (line: Path64): Path64 => line.filter((p, i) => i === 0 || p.x !== line[i - 1]!.x || p.y !== line[i - 1]!.y)

/**
 * Writes a file of lines, piece by piece, so that millions of them are never one text. Groups are named by layer, from the lowest to the highest; what lies beyond
 * the frame is cut off (by Clipper2).
 * @param onGroup told after each group
 */
export function* writeSvg({ title, sheet, groups, as }: LineFile, onGroup: (done: number) => void = () => undefined): Generator<string> {
  const unit = (25.4 * UNITS) / sheet.ppi
  const [w, h] = [round(sheet.w * unit), round(sheet.h * unit)]
  yield `<?xml version="1.0" encoding="UTF-8"?>\n<svg xmlns="http://www.w3.org/2000/svg" version="1.1" width="${mm(w)}mm" height="${mm(h)}mm" viewBox="0 0 ${mm(w)} ${mm(h)}">\n<title>${escaped(title)}</title>\n`
  for (const [g, { layer, title: what, colour, marks, extent, laid, place }] of groups.entries()) {
    const ink = as === 'shapes' ? `fill="${colour}" stroke="none"` : `fill="none" stroke="${colour}" stroke-linecap="round" stroke-linejoin="round"`
    yield `<g id="lines-${g + 1}" ${ink}>\n<title>${escaped(`${layer}: ${what}`)}</title>\n`
    const cut = cutter(extent, place, sheet, unit)
    const filled = areasOf(marks).flatMap((contour) => cut(contour, true))
    // what lies in an area and runs the other way round is left open
    if (filled.length) yield `<path fill="${colour}" stroke="none" fill-rule="nonzero" d="${filled.map((c) => data(c, true)).join('')}"/>\n`
    for (let k = 0; k + 1 < marks.starts.length; k++) {
      const text = markOf(marks, k, cut, place, unit, as, laid)
      if (text) yield text
    }
    yield '</g>\n'
    onGroup(g + 1)
  }
  yield '</svg>\n'
}

type Frame = { left: number; top: number; right: number; bottom: number }

const inside = (path: Path64, { left, top, right, bottom }: Frame): boolean => path.every((p) => p.x >= left && p.x <= right && p.y >= top && p.y <= bottom)

/** What of a path lies within a frame (Clipper2); most lie there whole. */
function within(path: Path64, frame: Frame, closed: boolean): Path64[] {
  if (path.length < (closed ? 3 : 2)) return []
  return inside(path, frame) ? [path] : closed ? Clipper.rectClip(frame, [path]) : Clipper.rectClipLines(frame, [path])
}

/** Cuts what lies beyond the layer, lays the rest on the sheet, and cuts what lies beyond that: whole micrometres. */
function cutter({ x, y, w, h }: LineGroup['extent'], place: LineGroup['place'], sheet: LineFile['sheet'], unit: number) {
  const own: Frame = { left: x * PARTS, top: y * PARTS, right: (x + w) * PARTS, bottom: (y + h) * PARTS }
  const frame: Frame = { left: 0, top: 0, right: round(sheet.w * unit), bottom: round(sheet.h * unit) }
  return (points: readonly Point[], closed: boolean): Path64[] =>
    within(
      points.map((p) => ({ x: round(p.x * PARTS), y: round(p.y * PARTS) })),
      own,
      closed,
    ).flatMap((part) => {
      const laid: Path64 = []
      for (const p of part) {
        const at = place(p.x / PARTS, p.y / PARTS)
        if (at) laid.push({ x: round((at.x - sheet.x) * unit), y: round((at.y - sheet.y) * unit) })
      }
      return within(spaced(laid), frame, closed)
    })
}
type Cut = ReturnType<typeof cutter>

function* contours({ areas, areaStarts }: Marks): Generator<Point[]> {
  for (let k = 0; k + 1 < areaStarts.length; k++)
    yield Array.from({ length: areaStarts[k + 1]! - areaStarts[k]! }, (_, i) => ({
      x: areas[(areaStarts[k]! + i) * 2]!,
      y: areas[(areaStarts[k]! + i) * 2 + 1]!,
    }))
}
const areasOf = (marks: Marks): Point[][] => [...contours(marks)]

/** One mark as SVG; nothing where it lies beyond the frame or has no breadth. */
function markOf({ points, starts }: Marks, k: number, cut: Cut, place: LineGroup['place'], unit: number, as: LineFile['as'], laid: LineGroup['laid']): string {
  const [from, to] = [starts[k]!, starts[k + 1]!]
  const halves: number[] = []
  let weight = 0
  for (let i = from; i < to; i++) {
    halves.push(points[i * 4 + 2]!)
    weight += points[i * 4 + 3]! / (to - from)
  }
  // its ends may taper: the usual breadth is that of its middle
  const half = halves.sort((a, b) => a - b)[halves.length >> 1]!
  const middle = ((from + to) >> 1) * 4
  const broad = round(2 * half * unit * (place(points[middle]!, points[middle + 1]!)?.scale ?? 1))
  if (broad < THINNEST) return ''
  const cover = min(1, laid(weight))
  const opacity = cover > 0.995 ? '' : ` ${as === 'shapes' ? 'fill' : 'stroke'}-opacity="${round(cover * 100) / 100}"`
  const closed = as === 'shapes'
  const line = closed ? rim(points, from, to) : Array.from({ length: to - from }, (_, i) => ({ x: points[(from + i) * 4]!, y: points[(from + i) * 4 + 1]! }))
  const parts = cut(line, closed)
  if (parts.length === 0) return ''
  return `<path${closed ? '' : ` stroke-width="${mm(broad)}"`}${opacity} d="${parts.map((p) => data(p, closed)).join('')}"/>\n`
}
