import type { Size } from './viewport.ts'

/** How the artwork lies in the view, for what is laid over it; CSS pixels of the view's plane. */
export interface Ground {
  /** CSS pixels an artwork pixel. */
  scale: number
  /** Where artwork (0, 0) lies. */
  x: number
  y: number
  /** The plane's own size. */
  size: Size
  /** The artwork's point under a point of the window. */
  under: (at: { clientX: number; clientY: number }) => { x: number; y: number }
}

/** Which way an arrow key goes; null for other keys. */
export function arrow(key: string): { x: number; y: number } | null {
  return { ArrowLeft: { x: -1, y: 0 }, ArrowRight: { x: 1, y: 0 }, ArrowUp: { x: 0, y: -1 }, ArrowDown: { x: 0, y: 1 } }[key] ?? null
}
