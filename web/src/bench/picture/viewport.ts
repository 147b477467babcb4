import { intersect, type Region } from '@nimble-quill/core'

/** How the artwork lies in the window: device pixels an artwork pixel, and the artwork point in the window's middle. */
export interface Viewport {
  scale: number
  cx: number
  cy: number
  /** Keeps the whole sheet in sight when the window changes. */
  fit: boolean
}
export interface Size {
  w: number
  h: number
}

const MARGIN = 18
export const MAX_SCALE = 16
export const MIN_SCALE = 1 / 64

/** The whole sheet in the window, never enlarged. */
export function fitted(sheet: Region, window: Size): Viewport {
  const scale = Math.min(1, Math.max(MIN_SCALE, Math.min((window.w - 2 * MARGIN) / sheet.w, (window.h - 2 * MARGIN) / sheet.h)))
  return { scale, cx: sheet.x + sheet.w / 2, cy: sheet.y + sheet.h / 2, fit: true }
}

/** The smallest scale of a view: a third of what fits. */
export const leastScale = (sheet: Region, room: Size): number => Math.max(MIN_SCALE, fitted(sheet, room).scale / 3)

/** Zoomed to a scale so that the artwork point under (px, py) of the window stays there. */
export function zoomedAt(v: Viewport, window: Size, px: number, py: number, scale: number, least = MIN_SCALE): Viewport {
  const s = Math.min(MAX_SCALE, Math.max(least, scale))
  const ax = v.cx + (px - window.w / 2) / v.scale
  const ay = v.cy + (py - window.h / 2) / v.scale
  return { scale: s, cx: ax - (px - window.w / 2) / s, cy: ay - (py - window.h / 2) / s, fit: false }
}

/** Moved by device pixels; some of the sheet stays in sight. */
export function panned(v: Viewport, sheet: Region, dx: number, dy: number): Viewport {
  return {
    ...v,
    cx: Math.min(sheet.x + sheet.w, Math.max(sheet.x, v.cx - dx / v.scale)),
    cy: Math.min(sheet.y + sheet.h, Math.max(sheet.y, v.cy - dy / v.scale)),
    fit: false,
  }
}

/** Window position of artwork (0, 0); at 100 % and beyond on whole device pixels, so that pixels stay crisp. */
export function origin(v: Viewport, window: Size): { x: number; y: number } {
  const x = window.w / 2 - v.cx * v.scale
  const y = window.h / 2 - v.cy * v.scale
  return v.scale >= 1 ? { x: Math.round(x), y: Math.round(y) } : { x, y }
}

/** The part of the sheet in sight, artwork pixels. */
export function visible(v: Viewport, sheet: Region, window: Size): Region {
  const x = Math.floor(v.cx - window.w / 2 / v.scale) - 1
  const y = Math.floor(v.cy - window.h / 2 / v.scale) - 1
  return intersect({ x, y, w: Math.ceil(window.w / v.scale) + 3, h: Math.ceil(window.h / v.scale) + 3 }, sheet)
}

/** The level that is at least as fine as the window shows: the next finer power of two. */
export function levelFor(scale: number): number {
  return Math.max(0, Math.min(5, Math.floor(Math.log2(1 / scale) + 1e-9)))
}

/** How a view is turned and mirrored: its own upright plane, the way from there to the screen and back (device pixels). */
export interface Turning {
  /** Size of the plane: it covers the screen, however that lies on it. */
  size: Size
  /** Whether the pixels of the plane lie on those of the screen. */
  square: boolean
  /** From the plane to the screen, as a canvas takes it. */
  matrix: [a: number, b: number, c: number, d: number, e: number, f: number]
  back: (x: number, y: number) => { x: number; y: number }
  /** The same for elements laid over the canvas, in CSS pixels. */
  css: (ratio: number) => string
  /** The window in which a sheet that is not turned would be as large as the turned one is on the screen, whole. */
  room: (sheet: Size) => Size
}

/** @param turned degrees clockwise; mirrored left to right as seen on the screen */
export function turning(screen: Size, turned: number, mirrored: boolean): Turning {
  const square = turned % 90 === 0
  const quarter = (((turned / 90) % 4) + 4) % 4
  const rad = (turned * Math.PI) / 180
  // quarters exactly
  const [cos, sin] = square ? [[1, 0, -1, 0][quarter]!, [0, 1, 0, -1][quarter]!] : [Math.cos(rad), Math.sin(rad)]
  const [c1, s1] = [Math.abs(cos), Math.abs(sin)]
  const size = { w: Math.ceil(screen.w * c1 + screen.h * s1 - 1e-6), h: Math.ceil(screen.w * s1 + screen.h * c1 - 1e-6) }
  const m = mirrored ? -1 : 1
  // x′ = m·(cos·x − sin·y), y′ = sin·x + cos·y, about the middles
  const [a, b, c, d] = [m * cos, sin, -m * sin, cos]
  const e = screen.w / 2 - (a * size.w + c * size.h) / 2
  const f = screen.h / 2 - (b * size.w + d * size.h) / 2
  return {
    size,
    square,
    matrix: [a, b, c, d, e, f],
    // turning and mirroring keep lengths: the way back is the transpose
    back: (x, y) => ({ x: a * (x - e) + b * (y - f), y: c * (x - e) + d * (y - f) }),
    css: (ratio) => `matrix(${a}, ${b}, ${c}, ${d}, ${e / ratio}, ${f / ratio})`,
    room: ({ w, h }) => {
      const scale = Math.min((screen.w - 2 * MARGIN) / (w * c1 + h * s1), (screen.h - 2 * MARGIN) / (w * s1 + h * c1))
      return { w: w * scale + 2 * MARGIN, h: h * scale + 2 * MARGIN }
    },
  }
}

/** By how much the view moves, device pixels of its plane, so that what lies under a point of the screen stays there as the view is turned. */
export function staying(from: Turning, to: Turning, x: number, y: number): { dx: number; dy: number } {
  const [was, is] = [from.back(x, y), to.back(x, y)]
  return { dx: is.x - to.size.w / 2 - (was.x - from.size.w / 2), dy: is.y - to.size.h / 2 - (was.y - from.size.h / 2) }
}

/** The next turn of a view, degrees: by a quarter, upright again where it stands aslant; or by a little. */
export function turnedOn(turned: number, little: boolean): number {
  return little ? (turned + LITTLE) % 360 : ((Math.floor(turned / 90) + 1) * 90) % 360
}
const LITTLE = 15

/** A picture under the hand that takes longer than `long` milliseconds lags behind it; one that takes less than `short` could be finer. */
const FRAME = { short: 20, long: 110 }
/**
 * Levels by which the picture under the hand is coarser than the view: one, and more only when two in a row lagged.
 * @param ms what the last two took, the last one first
 */
export function lifted(lift: number, ms: readonly [number, number]): number {
  if (Math.min(...ms) > FRAME.long) return Math.min(3, lift + 1)
  return Math.max(...ms) < FRAME.short ? Math.max(1, lift - 1) : lift
}
