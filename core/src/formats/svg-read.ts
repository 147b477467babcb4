import { XMLParser, XMLValidator } from 'fast-xml-parser'
import svgpath from 'svgpath'
import { QuillError } from '../base/errors.ts'

// Files of lines, read: SVG 1.1 (W3C Recommendation, 2011). Shapes and paths with their strokes and transforms; nothing in a file is run or fetched.

/** Characters of a file, and places of all its lines together, at most. */
export const MOST_TEXT = 16_000_000
export const MOST_READ = 1_000_000
/** Elements that a file may hold, and how deep they may lie in each other. */
const MOST_ELEMENTS = 400_000
const DEEPEST = 100
/** A curve is left by its chords by no more than this, millimetres. */
const OFF = 0.02
/** What a pixel of CSS is (CSS Values 3: 96 an inch), and what lengths are in, millimetres. */
const UNITS: Readonly<Record<string, number>> = { '': 25.4 / 96, px: 25.4 / 96, pt: 25.4 / 72, pc: 25.4 / 6, mm: 1, cm: 10, in: 25.4, q: 0.25 }
/** Breadth of what is filled and has no stroke, millimetres: a line round it. */
const RIM = 0.25

/** A line of a file: places in millimetres from its upper left corner, and its breadth. */
export interface ReadLine {
  points: { x: number; y: number }[]
  breadth: number
}
export interface ReadLines {
  width: number
  height: number
  lines: ReadLine[]
  /** Kinds of elements that were left out, and how many. */
  left: Record<string, number>
}

const wrong = (what: string): QuillError => new QuillError('file-unreadable', `This file of lines cannot be read: ${what} Nothing was changed.`)

type Matrix6 = [number, number, number, number, number, number]
interface Element {
  name: string
  attributes: Record<string, string>
  children: Element[]
}
/** What a child takes over from what it is in. */
interface Inherited {
  stroke: string
  fill: string
  breadth: number
  transforms: string[]
}

/** Elements as the parser gives them in their order: { tag: [children], ':@': attributes }. */
function elementsOf(nodes: readonly Record<string, unknown>[], count: { n: number }, depth: number): Element[] {
  if (depth > DEEPEST) throw wrong(`its parts lie in each other more than ${DEEPEST} deep.`)
  const found: Element[] = []
  for (const node of nodes) {
    const name = Object.keys(node).find((k) => k !== ':@')
    if (!name || name.startsWith('#') || name.startsWith('?')) continue
    if (++count.n > MOST_ELEMENTS) throw wrong(`it has more than ${MOST_ELEMENTS} parts.`)
    const children = Array.isArray(node[name]) ? (node[name] as Record<string, unknown>[]) : []
    found.push({ name: name.replace(/^.*:/, ''), attributes: (node[':@'] ?? {}) as Record<string, string>, children: elementsOf(children, count, depth + 1) })
  }
  return found
}

const numberOf = (text: string | undefined, usual = 0): number => {
  const v = Number.parseFloat(text ?? '')
  return Number.isFinite(v) ? v : usual
}
/** A length in millimetres; null where it is a share or none. */
function lengthOf(text: string | undefined): number | null {
  const m = /^\s*([+-]?(?:\d+\.?\d*|\.\d+)(?:e[+-]?\d+)?)\s*([a-z]*)\s*$/i.exec(text ?? '')
  const unit = m && UNITS[m[2]!.toLowerCase()]
  return m && unit ? Number(m[1]) * unit : null
}

/** A presentation attribute, or its like in the style attribute, which goes before it. */
function styled({ attributes }: Element, name: string): string | undefined {
  const own = (attributes['style'] ?? '').split(';').find((part) => part.split(':')[0]?.trim() === name)
  return own ? own.slice(own.indexOf(':') + 1).trim() : attributes[name]
}

/** A shape as path data; null for what is none. */
function shapeOf({ name, attributes: a }: Element): string | null {
  const n = (key: string) => numberOf(a[key])
  switch (name) {
    case 'path':
      return a['d'] ?? ''
    case 'line':
      return `M${n('x1')} ${n('y1')}L${n('x2')} ${n('y2')}`
    case 'polyline':
    case 'polygon': {
      const v = (a['points'] ?? '').match(/[+-]?(?:\d+\.?\d*|\.\d+)(?:e[+-]?\d+)?/gi) ?? []
      return v.length < 4 ? '' : `M${v.slice(0, v.length - (v.length % 2)).join(' ')}${name === 'polygon' ? 'z' : ''}`
    }
    case 'rect': {
      const [x, y, w, h] = [n('x'), n('y'), n('width'), n('height')]
      if (w <= 0 || h <= 0) return ''
      const rx = Math.min(w / 2, a['rx'] === undefined ? n('ry') : n('rx'))
      const ry = Math.min(h / 2, a['ry'] === undefined ? n('rx') : n('ry'))
      if (rx <= 0 || ry <= 0) return `M${x} ${y}h${w}v${h}h${-w}z`
      const arc = (dx: number, dy: number) => `a${rx} ${ry} 0 0 1 ${dx} ${dy}`
      return `M${x + rx} ${y}h${w - 2 * rx}${arc(rx, ry)}v${h - 2 * ry}${arc(-rx, ry)}h${2 * rx - w}${arc(-rx, -ry)}v${2 * ry - h}${arc(rx, -ry)}z`
    }
    case 'circle':
    case 'ellipse': {
      const [cx, cy] = [n('cx'), n('cy')]
      const [rx, ry] = name === 'circle' ? [n('r'), n('r')] : [n('rx'), n('ry')]
      return rx > 0 && ry > 0 ? `M${cx - rx} ${cy}a${rx} ${ry} 0 1 0 ${2 * rx} 0a${rx} ${ry} 0 1 0 ${-2 * rx} 0z` : ''
    }
    default:
      return null
  }
}

/** Parts that are not drawn where they stand. */
const UNSEEN = new Set([
  'defs',
  'symbol',
  'clipPath',
  'mask',
  'marker',
  'pattern',
  'linearGradient',
  'radialGradient',
  'filter',
  'metadata',
  'title',
  'desc',
  'style',
  'script',
])
/** Parts that hold others. */
const HOLDERS = new Set(['g', 'svg', 'a', 'switch'])

/**
 * Reads the lines of an SVG file.
 * @throws QuillError `file-unreadable` with a sentence: no SVG, too large, too deep, without a line
 */
export function readSvg(text: string): ReadLines {
  if (text.length > MOST_TEXT)
    throw wrong(`it has ${Math.round(text.length / 1e6)} million characters, more than the ${MOST_TEXT / 1e6} million that are read.`)
  // entities can make a small file endless; none is needed for lines
  if (/<!ENTITY/i.test(text)) throw wrong('it declares entities, which files of lines do not need.')
  if (!/<(?:\w+:)?svg[\s>]/.test(text)) throw wrong('it is no SVG.')
  const root = rootOf(text)
  if (!root) throw wrong('it is no SVG.')

  const box = (root.attributes['viewBox'] ?? '').split(/[\s,]+/).map(Number)
  const viewed = box.length === 4 && box.every(Number.isFinite) && box[2]! > 0 && box[3]! > 0 ? box : null
  const width = lengthOf(root.attributes['width']) ?? (viewed ? viewed[2]! * UNITS['']! : null)
  const height = lengthOf(root.attributes['height']) ?? (viewed ? viewed[3]! * UNITS['']! : null)
  if (!width || !height || width <= 0 || height <= 0) throw wrong('it does not say how large it is.')
  // preserveAspectRatio as it usually is: the whole view in the middle
  const scale = viewed ? Math.min(width / viewed[2]!, height / viewed[3]!) : UNITS['']!
  const base: Matrix6 = viewed
    ? [scale, 0, 0, scale, (width - viewed[2]! * scale) / 2 - viewed[0]! * scale, (height - viewed[3]! * scale) / 2 - viewed[1]! * scale]
    : [scale, 0, 0, scale, 0, 0]

  const out: ReadLines = { width, height, lines: [], left: {} }
  let places = 0
  const visit = (element: Element, inherited: Inherited): void => {
    if (UNSEEN.has(element.name) || styled(element, 'display') === 'none' || styled(element, 'visibility') === 'hidden') return
    const own: Inherited = {
      stroke: styled(element, 'stroke') ?? inherited.stroke,
      fill: styled(element, 'fill') ?? inherited.fill,
      breadth: numberOf(styled(element, 'stroke-width'), inherited.breadth),
      transforms: element.attributes['transform'] ? [...inherited.transforms, element.attributes['transform']] : inherited.transforms,
    }
    if (HOLDERS.has(element.name)) {
      for (const child of element.children) visit(child, own)
      return
    }
    const d = shapeOf(element)
    if (d === null) {
      out.left[element.name] = (out.left[element.name] ?? 0) + 1
      return
    }
    if (own.stroke === 'none' && own.fill === 'none') return
    let path = svgpath(d)
    for (const t of [...own.transforms].reverse()) path = path.transform(t)
    path = path.matrix(base).abs().unshort().unarc()
    const grown = ownScale(own.transforms, base)
    const breadth = own.stroke === 'none' ? RIM : own.breadth * grown
    for (const points of flattened(path)) {
      places += points.length
      if (places > MOST_READ)
        throw wrong(`its lines have more than ${MOST_READ / 1e6} million places. Simplify it in the program that made it, or bring it in in parts.`)
      out.lines.push({ points, breadth })
    }
  }
  for (const child of root.children) visit(child, { stroke: 'none', fill: 'black', breadth: 1, transforms: [] })
  if (out.lines.length === 0) throw wrong('it has no line.')
  return out
}

/** Characters of one value, at most. */
const LONGEST = 1_000_000
const TOO_LONG = 'one of its lines is too long. Simplify it in the program that made it, or bring it in in parts.'

/** How far quotation marks are apart, at most. */
function longest(text: string): number {
  let [most, last] = [0, -1]
  for (let at = text.indexOf('"'); at >= 0; at = text.indexOf('"', at + 1)) {
    if (at - last > most) most = at - last
    last = at
  }
  return Math.max(most, text.length - last)
}

/** The outermost part of a file. */
function rootOf(text: string): Element | undefined {
  // the parser cannot take single values of millions of characters
  if (longest(text) > LONGEST) throw wrong(TOO_LONG)
  let nodes: Record<string, unknown>[]
  try {
    const valid = XMLValidator.validate(text, { allowBooleanAttributes: false })
    if (valid !== true) throw wrong(`line ${valid.err.line} is not well-formed.`)
    const parser = new XMLParser({
      ignoreAttributes: false,
      attributeNamePrefix: '',
      preserveOrder: true,
      parseTagValue: false,
      parseAttributeValue: false,
      processEntities: false,
    })
    nodes = parser.parse(text) as Record<string, unknown>[]
  } catch (error) {
    if (error instanceof QuillError) throw error
    throw wrong(TOO_LONG)
  }
  return elementsOf(nodes, { n: 0 }, 0).find((e) => e.name === 'svg')
}

/** How much larger transforms make things, about: by what they make of a square. */
function ownScale(transforms: readonly string[], base: Matrix6): number {
  let square = svgpath('M0 0L1 0L0 1')
  for (const t of [...transforms].reverse()) square = square.transform(t)
  const p: number[][] = []
  square
    .matrix(base)
    .abs()
    .iterate((s) => void p.push(s.slice(1) as number[]))
  const [o, a, b] = p
  if (!o || !a || !b) return 1
  return Math.sqrt(Math.abs((a[0]! - o[0]!) * (b[1]! - o[1]!) - (a[1]! - o[1]!) * (b[0]! - o[0]!)))
}

/** Lines of places out of a path of absolute moves, lines and curves. */
function flattened(path: ReturnType<typeof svgpath>): { x: number; y: number }[][] {
  const lines: { x: number; y: number }[][] = []
  let line: { x: number; y: number }[] = []
  const end = () => {
    if (line.length > 1) lines.push(line)
    line = []
  }
  path.iterate((segment, _, x0, y0) => {
    const [kind, ...n] = segment as [string, ...number[]]
    if (!n.every((v) => Number.isFinite(v) && Math.abs(v) < 1e7)) throw wrong('a line of it lies beyond everything.')
    if (kind === 'M') {
      end()
      line = [{ x: n[0]!, y: n[1]! }]
      return
    }
    if (line.length === 0) line = [{ x: x0, y: y0 }]
    if (kind === 'L') line.push({ x: n[0]!, y: n[1]! })
    else if (kind === 'H') line.push({ x: n[0]!, y: y0 })
    else if (kind === 'V') line.push({ x: x0, y: n[0]! })
    else if (kind === 'Z' || kind === 'z') {
      line.push({ ...line[0]! })
      end()
    } else if (kind === 'Q' || kind === 'C') {
      const [ax, ay, bx, by, x, y] =
        kind === 'C'
          ? (n as [number, number, number, number, number, number])
          : [x0 + (2 / 3) * (n[0]! - x0), y0 + (2 / 3) * (n[1]! - y0), n[2]! + (2 / 3) * (n[0]! - n[2]!), n[3]! + (2 / 3) * (n[1]! - n[3]!), n[2]!, n[3]!]
      // a chord stands off a cubic by no more than an eighth of its second difference by the square of the pieces (common practice)
      const bend = Math.max(Math.hypot(x0 - 2 * ax + bx, y0 - 2 * ay + by), Math.hypot(ax - 2 * bx + x, ay - 2 * by + y))
      const pieces = Math.min(500, Math.max(1, Math.ceil(Math.sqrt((6 * bend) / (8 * OFF)))))
      for (let i = 1; i <= pieces; i++) {
        const t = i / pieces
        const [b0, b1, b2, b3] = [(1 - t) ** 3, 3 * t * (1 - t) ** 2, 3 * t * t * (1 - t), t ** 3]
        line.push({ x: b0 * x0 + b1 * ax + b2 * bx + b3 * x, y: b0 * y0 + b1 * ay + b2 * by + b3 * y })
      }
    }
  })
  end()
  return lines
}
