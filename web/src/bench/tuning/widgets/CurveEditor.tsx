import { NumberInput } from '@mantine/core'
import { monotoneCubic, type CurvePoint } from '@nimble-quill/core'
import { useRef, useState, type KeyboardEvent, type PointerEvent } from 'react'
import type { OnChange } from './on-change.ts'
import { useMeasured } from '../measured.ts'
import { useDragIn } from './drag.ts'
import { tonePath } from './TonePath.tsx'
import widgetsCss from './widgets.module.css'

const SIDE = 240
const round = (v: number) => Math.round(Math.min(1, Math.max(0, v)) * 10000) / 10000

/** A tone curve: points are dragged, added by a click, removed with Delete, nudged with the arrow keys. */
export function CurveEditor({ points, onChange }: { points: CurvePoint[]; onChange: OnChange<CurvePoint[]> }) {
  const svg = useRef<SVGSVGElement>(null)
  const luma = useMeasured()?.before.luma
  const [at, setAt] = useState(0)
  const f = monotoneCubic(points)
  const path = Array.from({ length: 121 }, (_, i) => `${i ? 'L' : 'M'}${(i / 120) * SIDE} ${(1 - f(i / 120)) * SIDE}`).join('')

  const place = (e: PointerEvent): CurvePoint => {
    const box = svg.current!.getBoundingClientRect()
    return [round((e.clientX - box.left) / box.width), round(1 - (e.clientY - box.top) / box.height)]
  }
  /** A point moved, kept between its neighbours. */
  const moved = (i: number, [x, y]: CurvePoint): CurvePoint[] => {
    const low = i === 0 ? 0 : points[i - 1]![0] + 0.004
    const high = i === points.length - 1 ? 1 : points[i + 1]![0] - 0.004
    return points.map((p, j) => (j === i ? [round(Math.min(high, Math.max(low, x))), round(y)] : p))
  }
  const drag = useDragIn<number>(
    () => svg.current,
    (x, y, gesture, i) => onChange(moved(i, [round(x), round(1 - y)]), gesture),
  )
  const add = (e: PointerEvent) => {
    if (e.target !== svg.current && !(e.target as Element).matches('[data-ground]')) return
    const p = place(e)
    if (points.some((q) => Math.abs(q[0] - p[0]) < 0.02) || points.length >= 32) return
    const next = [...points, p].sort((a, b) => a[0] - b[0])
    setAt(next.indexOf(p))
    onChange(next)
  }
  const keys = (e: KeyboardEvent, i: number) => {
    const step = e.shiftKey ? 0.05 : 0.01
    const by = { ArrowLeft: [-step, 0], ArrowRight: [step, 0], ArrowUp: [0, step], ArrowDown: [0, -step] }[e.key]
    if (by) {
      e.preventDefault()
      onChange(moved(i, [points[i]![0] + by[0]!, points[i]![1] + by[1]!]), `curve-keys-${i}`)
    } else if ((e.key === 'Delete' || e.key === 'Backspace') && points.length > 2) {
      e.preventDefault()
      setAt(0)
      onChange(points.filter((_, j) => j !== i))
    }
  }
  const chosen = points[Math.min(at, points.length - 1)]!
  return (
    <>
      <svg ref={svg} className={widgetsCss.curve} viewBox={`-8 -8 ${SIDE + 16} ${SIDE + 16}`} role="group" aria-label="Tone curve" onPointerDown={add}>
        <rect data-ground x={0} y={0} width={SIDE} height={SIDE} fill="transparent" />
        {luma && <path d={tonePath(luma, SIDE, SIDE)} fill="var(--line)" opacity={0.6} pointerEvents="none" />}
        {[0.25, 0.5, 0.75].map((g) => (
          <path key={g} d={`M${g * SIDE} 0V${SIDE}M0 ${g * SIDE}H${SIDE}`} stroke="var(--line)" pointerEvents="none" />
        ))}
        <path d={path} fill="none" stroke="var(--ink)" strokeWidth={1.6} pointerEvents="none" />
        {points.map((p, i) => (
          <circle
            key={i}
            cx={p[0] * SIDE}
            cy={(1 - p[1]) * SIDE}
            r={6}
            tabIndex={0}
            role="slider"
            aria-label={`Point ${i + 1}`}
            aria-valuenow={Math.round(p[1] * 255)}
            aria-valuetext={`${Math.round(p[0] * 255)} to ${Math.round(p[1] * 255)}`}
            onFocus={() => setAt(i)}
            onKeyDown={(e) => keys(e, i)}
            {...drag(i)}
          />
        ))}
      </svg>
      <div className={widgetsCss.typed}>
        <span>Point {Math.min(at, points.length - 1) + 1}</span>
        {(['in', 'out'] as const).map((end, axis) => (
          <NumberInput
            key={end}
            aria-label={`Point ${Math.min(at, points.length - 1) + 1}, ${end}`}
            leftSection={<small>{end}</small>}
            leftSectionWidth={28}
            hideControls
            w={84}
            min={0}
            max={255}
            decimalScale={1}
            value={Math.round(chosen[axis]! * 2550) / 10}
            onChange={(v) => {
              if (typeof v !== 'number' || v < 0 || v > 255 || Math.abs(v / 255 - chosen[axis]!) < 1e-4) return
              const to: CurvePoint = axis === 0 ? [v / 255, chosen[1]] : [chosen[0], v / 255]
              onChange(moved(Math.min(at, points.length - 1), to), `curve-typed-${at}-${end}`)
            }}
          />
        ))}
      </div>
    </>
  )
}
