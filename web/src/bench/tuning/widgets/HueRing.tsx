import { HUE_ANGLES, HUES } from '@nimble-quill/core'
import { useRef, useState, type KeyboardEvent } from 'react'
import type { OnChange } from './on-change.ts'
import { useDragIn } from './drag.ts'
import widgetsCss from './widgets.module.css'

const SIDE = 200
const MID = 62
const REACH = 32
/** What each hue looks like. */
const SWATCHES = HUE_ANGLES.map((h) => `oklch(0.7 0.15 ${h})`)

/** A value for each hue, on a ring: dragged outwards for more, inwards for less; arrow keys, Home for 0. */
export function HueRing({ title, values, min, max, onChange }: { title: string; values: number[]; min: number; max: number; onChange: OnChange<number[]> }) {
  const svg = useRef<SVGSVGElement>(null)
  const [at, setAt] = useState(0)
  const radius = (v: number) => MID + (v / Math.max(-min, max)) * REACH
  const point = (i: number, r: number) => {
    const a = (HUE_ANGLES[i]! * Math.PI) / 180
    return [SIDE / 2 + r * Math.cos(a), SIDE / 2 - r * Math.sin(a)] as const
  }
  const put = (i: number, v: number, gesture?: string) =>
    onChange(
      values.map((old, j) => (j === i ? Math.round(Math.min(max, Math.max(min, v)) * 100) / 100 : old)),
      gesture,
    )
  const drag = useDragIn<number>(
    () => svg.current,
    (x, y, gesture, i) => {
      const a = (HUE_ANGLES[i]! * Math.PI) / 180
      // only the way outwards counts
      const r = (x - 0.5) * SIDE * Math.cos(a) - (y - 0.5) * SIDE * Math.sin(a)
      put(i, ((r - MID) / REACH) * Math.max(-min, max), gesture)
    },
    setAt,
  )
  const keys = (e: KeyboardEvent, i: number) => {
    const by = e.key === 'ArrowUp' || e.key === 'ArrowRight' ? 0.02 : e.key === 'ArrowDown' || e.key === 'ArrowLeft' ? -0.02 : 0
    if (by) {
      e.preventDefault()
      put(i, values[i]! + by * (e.shiftKey ? 5 : 1), `hue-keys-${i}`)
    } else if (e.key === 'Home') put(i, 0)
  }
  const outline = HUES.map((_, i) => point(i, radius(values[i]!)).join(' ')).join('L')
  return (
    <>
      <svg ref={svg} className={widgetsCss.ring} viewBox={`0 0 ${SIDE} ${SIDE}`} role="group" aria-label={title}>
        <circle cx={SIDE / 2} cy={SIDE / 2} r={MID} fill="none" stroke="var(--line)" />
        <circle cx={SIDE / 2} cy={SIDE / 2} r={MID + REACH} fill="none" stroke="var(--line)" strokeDasharray="2 3" />
        <circle cx={SIDE / 2} cy={SIDE / 2} r={MID - REACH} fill="none" stroke="var(--line)" strokeDasharray="2 3" />
        <path d={`M${outline}Z`} fill="none" stroke="var(--ink)" strokeWidth={1.2} pointerEvents="none" />
        {HUES.map((name, i) => {
          const [x, y] = point(i, radius(values[i]!))
          return (
            <circle
              key={name}
              cx={x}
              cy={y}
              r={i === at ? 8.5 : 7}
              fill={SWATCHES[i]!}
              stroke="var(--ink)"
              strokeWidth={i === at ? 2 : 1}
              tabIndex={0}
              role="slider"
              aria-label={`${title}, ${name.toLowerCase()}`}
              aria-valuemin={Math.round(min * 100)}
              aria-valuemax={Math.round(max * 100)}
              aria-valuenow={Math.round(values[i]! * 100)}
              onFocus={() => setAt(i)}
              onKeyDown={(e) => keys(e, i)}
              onDoubleClick={() => put(i, 0)}
              {...drag(i)}
            />
          )
        })}
        <text x={SIDE / 2} y={SIDE / 2 - 2} textAnchor="middle" fontSize={13} fill="var(--ink)">
          {HUES[at]}
        </text>
        <text x={SIDE / 2} y={SIDE / 2 + 14} textAnchor="middle" fontSize={12} fill="var(--faint)">
          {values[at]! > 0 ? '+' : ''}
          {Math.round(values[at]! * 100)} %
        </text>
      </svg>
    </>
  )
}
