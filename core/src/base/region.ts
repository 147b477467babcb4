/** A rectangle of pixels at some level: x, y of the first pixel, w × h pixels; all integers. */
export interface Region {
  x: number
  y: number
  w: number
  h: number
}

/** The region grown by n pixels on every side. */
export function grow(r: Region, n: number): Region {
  return { x: r.x - n, y: r.y - n, w: r.w + 2 * n, h: r.h + 2 * n }
}

/** The part both share; w or h is 0 where there is none. */
export function intersect(a: Region, b: Region): Region {
  const x = Math.max(a.x, b.x)
  const y = Math.max(a.y, b.y)
  return { x, y, w: Math.max(0, Math.min(a.x + a.w, b.x + b.w) - x), h: Math.max(0, Math.min(a.y + a.h, b.y + b.h) - y) }
}

/** The smallest region that holds both; an empty one counts for nothing. */
export function union(a: Region, b: Region): Region {
  if (isEmpty(a)) return b
  if (isEmpty(b)) return a
  const x = Math.min(a.x, b.x)
  const y = Math.min(a.y, b.y)
  return { x, y, w: Math.max(a.x + a.w, b.x + b.w) - x, h: Math.max(a.y + a.h, b.y + b.h) - y }
}

export function isEmpty(r: Region): boolean {
  return r.w <= 0 || r.h <= 0
}

export function contains(outer: Region, inner: Region): boolean {
  return inner.x >= outer.x && inner.y >= outer.y && inner.x + inner.w <= outer.x + outer.w && inner.y + inner.h <= outer.y + outer.h
}

export function sameRegion(a: Region, b: Region): boolean {
  return a.x === b.x && a.y === b.y && a.w === b.w && a.h === b.h
}

/** The region of level-0 pixels seen at a level: every pixel of that level that touches it. */
export function atLevel(r: Region, level: number): Region {
  const s = 2 ** level
  const x = Math.floor(r.x / s)
  const y = Math.floor(r.y / s)
  return { x, y, w: Math.ceil((r.x + r.w) / s) - x, h: Math.ceil((r.y + r.h) / s) - y }
}

/** Grown outwards to whole cells of f × f pixels, aligned to 0. */
export function alignOut(r: Region, f: number): Region {
  const x = Math.floor(r.x / f) * f
  const y = Math.floor(r.y / f) * f
  return { x, y, w: Math.ceil((r.x + r.w) / f) * f - x, h: Math.ceil((r.y + r.h) / f) * f - y }
}

/** The part of r inside `extent`; where r lies wholly beyond it, the nearest row and column of pixels instead. `extent` is not empty. */
export function clampTo(r: Region, extent: Region): Region {
  const near = (at: number, from: number, n: number) => Math.min(from + n, Math.max(from, at))
  const x = Math.min(near(r.x, extent.x, extent.w), extent.x + extent.w - 1)
  const y = Math.min(near(r.y, extent.y, extent.h), extent.y + extent.h - 1)
  return { x, y, w: Math.max(x + 1, near(r.x + r.w, extent.x, extent.w)) - x, h: Math.max(y + 1, near(r.y + r.h, extent.y, extent.h)) - y }
}
