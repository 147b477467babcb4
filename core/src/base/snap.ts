// Where a thing that is dragged comes to lie exactly: edges and middles meet others when they are near.

/** A line that others may lie on: at a place of one axis. `name` is shown. */
export interface Line {
  axis: 'x' | 'y'
  at: number
  name: string
}

/** What a move is drawn to: the correction, and the lines that meet (several, where they meet at once). */
export interface Snapped {
  dx: number
  dy: number
  met: { line: Line; own: number }[]
}

/**
 * The smallest correction by which one of a thing's own lines meets another on each axis, if it is no farther than `reach`. Of equally near ones all that
 * meet are told. One axis does not wait for the other.
 * @param own places of the dragged thing (edges, middle) on each axis, as dragged
 */
export function snapped(own: { x: readonly number[]; y: readonly number[] }, lines: readonly Line[], reach: number): Snapped {
  const best = { x: Infinity, y: Infinity }
  for (const { axis, at } of lines)
    for (const o of own[axis]) {
      const d = at - o
      if (Math.abs(d) <= reach && Math.abs(d) < Math.abs(best[axis])) best[axis] = d
    }
  const by = { x: Number.isFinite(best.x) ? best.x : 0, y: Number.isFinite(best.y) ? best.y : 0 }
  const met = lines.flatMap((line) =>
    Number.isFinite(best[line.axis])
      ? own[line.axis].filter((o) => Math.abs(o + by[line.axis] - line.at) < 1e-6).map((o) => ({ line, own: o + by[line.axis] }))
      : [],
  )
  return { dx: by.x, dy: by.y, met }
}

/** The lines of a rectangle: its edges and middles; with `thirds` those of composition too. */
export function linesOf({ x, y, w, h }: { x: number; y: number; w: number; h: number }, name: string, thirds = false): Line[] {
  const shares: [number, string][] = [
    [0, 'edge'],
    [0.5, 'middle'],
    [1, 'edge'],
    ...(thirds
      ? ([
          [1 / 3, 'third'],
          [2 / 3, 'third'],
        ] as [number, string][])
      : []),
  ]
  return shares.flatMap(([s, what]): Line[] => [
    { axis: 'x', at: x + s * w, name: `${name}, ${what}` },
    { axis: 'y', at: y + s * h, name: `${name}, ${what}` },
  ])
}
