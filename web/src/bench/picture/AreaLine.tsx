import type { AreaOutline, Artwork, Region } from '@nimble-quill/core'
import { useEffect, useRef, useState } from 'react'
import { useEngine } from '../engine-context.ts'
import type { Ground } from './ground.ts'
import pictureCss from './picture.module.css'

/** Small strokes that stand on the inner side: how far apart, and how long; CSS pixels. */
const APART = 11
const LONG = 4.5

/** Where the area ends: a line with small strokes on its inner side, as a map draws a hollow. */
export function AreaLine({ artwork, region, level, ground }: { artwork: Artwork; region: Region; level: number; ground: Ground }) {
  const engine = useEngine()
  const canvas = useRef<HTMLCanvasElement>(null)
  const [outline, setOutline] = useState<{ of: string; lines: AreaOutline } | null>(null)
  const plane = artwork.area?.index ?? null
  useEffect(() => {
    if (!plane) return
    engine.setArtwork(artwork)
    engine.outline(plane, region, Math.max(0, level), (lines) => setOutline({ of: plane, lines }))
    // the sheet it lies on is what matters of the artwork
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [engine, plane, level, region.x, region.y, region.w, region.h])

  const ratio = window.devicePixelRatio || 1
  const { w, h } = ground.size
  useEffect(() => {
    const element = canvas.current
    if (!element) return
    element.width = Math.round(w * ratio)
    element.height = Math.round(h * ratio)
    const c = element.getContext('2d')!
    c.scale(ratio, ratio)
    if (!outline || outline.of !== plane) return
    const way = new Path2D()
    const strokes = new Path2D()
    const { places, starts } = outline.lines
    for (let k = 0; k + 1 < starts.length; k++) drawLine(way, strokes, places, starts[k]!, starts[k + 1]!, ground)
    c.lineJoin = 'round'
    for (const [style, more] of [
      ['rgb(0 0 0 / 72%)', 2],
      ['#fff', 0],
    ] as const) {
      c.strokeStyle = style
      c.lineWidth = 1.2 + more
      c.stroke(way)
      c.stroke(strokes)
    }
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [outline, plane, w, h, ratio, ground.x, ground.y, ground.scale])

  return (
    <canvas
      ref={canvas}
      className={pictureCss.areaLine}
      style={{ width: w, height: h }}
      aria-hidden
      data-part="area-line"
      data-area={plane}
      data-shown={outline?.of === plane || undefined}
    />
  )
}

/** A closed line, and its small strokes at even distances. */
function drawLine(way: Path2D, strokes: Path2D, places: Float32Array, from: number, to: number, { x, y, scale }: Ground): void {
  const at = (i: number) => ({ x: x + places[i * 2]! * scale, y: y + places[i * 2 + 1]! * scale })
  const n = to - from
  if (n < 3) return
  const first = at(from)
  way.moveTo(first.x, first.y)
  let rest = APART / 2
  let p = first
  for (let i = 1; i <= n; i++) {
    const q = at(from + (i % n))
    if (i < n) way.lineTo(q.x, q.y)
    const [dx, dy] = [q.x - p.x, q.y - p.y]
    const long = Math.hypot(dx, dy)
    for (; rest < long; rest += APART) {
      const [sx, sy] = [p.x + (dx * rest) / long, p.y + (dy * rest) / long]
      strokes.moveTo(sx, sy)
      strokes.lineTo(sx - (dy / long) * LONG, sy + (dx / long) * LONG)
    }
    rest -= long
    p = q
  }
  way.closePath()
}
