import type { Brush, Symmetry } from '@nimble-quill/core'
import { forwardRef, useImperativeHandle, useRef } from 'react'
import classes from './hands.module.css'
import type { Doing } from './slice.ts'

export interface PointerHandle {
  /** Where the pointer is, CSS pixels of the view's plane; null: not over the picture. */
  at: (p: { x: number; y: number } | null) => void
}

interface Props {
  brush: Brush
  /** CSS pixels that half the brush's breadth takes. */
  radius: number
  doing: Doing
  symmetry: Symmetry
  /** From artwork pixels to CSS pixels of the plane. */
  scale: number
  origin: { x: number; y: number }
  line: { from: { x: number; y: number }; to: { x: number; y: number } } | null
}

/** The images of a place by symmetry, itself first. */
function images(x: number, y: number, symmetry: Symmetry, place: (x: number, y: number) => { x: number; y: number }): { x: number; y: number }[] {
  if (symmetry.type === 'none') return [{ x, y }]
  const o = place(symmetry.x, symmetry.y)
  const [dx, dy] = [x - o.x, y - o.y]
  if (symmetry.type === 'mirror') {
    const a = (symmetry.angle * Math.PI) / 180
    const [ax, ay] = [Math.cos(a), -Math.sin(a)]
    const d = 2 * (dx * ax + dy * ay)
    return [
      { x, y },
      { x: o.x + d * ax - dx, y: o.y + d * ay - dy },
    ]
  }
  return Array.from({ length: symmetry.n }, (_, i) => {
    const a = (-2 * Math.PI * i) / symmetry.n
    return { x: o.x + dx * Math.cos(a) - dy * Math.sin(a), y: o.y + dx * Math.sin(a) + dy * Math.cos(a) }
  })
}

/** The brush as it would touch: its breadth, the firm part of it, its images, and whether it adds or takes away. Moved without drawing the page again. */
export const BrushPointer = forwardRef<PointerHandle, Props>(function BrushPointer({ brush, radius, doing, symmetry, scale, origin, line }, ref) {
  const group = useRef<SVGGElement>(null)
  const place = (x: number, y: number) => ({ x: origin.x + x * scale, y: origin.y + y * scale })
  useImperativeHandle(ref, () => ({
    at: (p) => {
      const g = group.current
      if (!g) return
      g.style.display = p ? '' : 'none'
      if (!p) return
      const all = images(p.x, p.y, symmetry, place)
      Array.from(g.children).forEach((child, i) => {
        const q = all[i]
        if (q) child.setAttribute('transform', `translate(${q.x} ${q.y})`)
      })
    },
  }))
  const firm = radius * brush.edge
  const n = symmetry.type === 'none' ? 1 : symmetry.type === 'mirror' ? 2 : symmetry.n
  const axis = symmetry.type === 'none' ? null : place(symmetry.x, symmetry.y)
  const reach = 20_000
  const rays =
    axis && symmetry.type === 'mirror'
      ? [symmetry.angle, symmetry.angle + 180]
      : axis && symmetry.type === 'round'
        ? Array.from({ length: symmetry.n }, (_, i) => (360 / symmetry.n) * i)
        : []
  return (
    <svg className={classes.pointer} aria-hidden="true" data-brush={radius.toFixed(1)} data-doing={doing}>
      {axis &&
        rays.map((deg) => {
          const a = (deg * Math.PI) / 180
          const to = { x: axis.x + Math.cos(a) * reach, y: axis.y - Math.sin(a) * reach }
          return (
            <g key={deg} opacity={0.7}>
              <line className={classes.dark} x1={axis.x} y1={axis.y} x2={to.x} y2={to.y} />
              <line x1={axis.x} y1={axis.y} x2={to.x} y2={to.y} strokeDasharray="6 5" />
            </g>
          )
        })}
      {line && (
        <g>
          {[classes.dark, ''].map((name) => {
            const [a, b] = [place(line.from.x, line.from.y), place(line.to.x, line.to.y)]
            return <line key={name} className={name} x1={a.x} y1={a.y} x2={b.x} y2={b.y} />
          })}
        </g>
      )}
      <g ref={group} style={{ display: 'none' }}>
        {Array.from({ length: n }, (_, i) => (
          <g key={i} opacity={i === 0 ? 1 : 0.7}>
            <circle className={classes.dark} r={Math.max(1.5, radius)} />
            <circle r={Math.max(1.5, radius)} />
            {firm > 3 && radius - firm > 2 && <circle className={classes.edge} r={firm} />}
            {i === 0 && (
              <>
                <path className={classes.dark} d={doing === 'lay' ? 'M-4 0H4M0 -4V4' : 'M-4 0H4'} />
                <path d={doing === 'lay' ? 'M-4 0H4M0 -4V4' : 'M-4 0H4'} />
              </>
            )}
          </g>
        ))}
      </g>
    </svg>
  )
})
