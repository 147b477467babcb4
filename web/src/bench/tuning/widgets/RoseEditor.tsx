import { Button } from '@mantine/core'
import { useRef, useState, type KeyboardEvent } from 'react'
import type { OnChange } from './on-change.ts'
import { useMeasured } from '../measured.ts'
import { useDragIn } from './drag.ts'
import widgetsCss from './widgets.module.css'
import tuningCss from '../tuning.module.css'

const SIDE = 200
const OUT = 92
const IN = 14
const STEP = Math.PI / 8

function wedge(i: number, r: number): string {
  const [a, b] = [(i - 0.5) * STEP + 0.02, (i + 0.5) * STEP - 0.02]
  const p = (angle: number, radius: number) => `${SIDE / 2 + radius * Math.cos(angle)} ${SIDE / 2 - radius * Math.sin(angle)}`
  return `M${p(a, IN)}L${p(a, r)}A${r} ${r} 0 0 0 ${p(b, r)}L${p(b, IN)}A${IN} ${IN} 0 0 1 ${p(a, IN)}Z`
}

/**
 * The edge rose: how many edges of this photo face each way (the grey petals), and how much each way counts (the coloured ones, dragged in and out). A
 * double click takes a way out or brings it back.
 */
export function RoseEditor({ weights, onChange }: { weights: number[]; onChange: OnChange<number[]> }) {
  const svg = useRef<SVGSVGElement>(null)
  const [at, setAt] = useState(0)
  const shown = useMeasured()?.shown as number[] | undefined
  const most = Math.max(1e-9, ...(shown ?? []))
  const put = (i: number, v: number, gesture?: string) =>
    onChange(
      weights.map((old, j) => (j === i ? Math.round(Math.min(1, Math.max(0, v)) * 100) / 100 : old)),
      gesture,
    )
  const drag = useDragIn<number>(
    () => svg.current,
    (x, y, gesture, i) => {
      const r = (x - 0.5) * SIDE * Math.cos(i * STEP) - (y - 0.5) * SIDE * Math.sin(i * STEP)
      put(i, (r - IN) / (OUT - IN), gesture)
    },
    setAt,
  )
  const keys = (e: KeyboardEvent, i: number) => {
    const by = e.key === 'ArrowUp' ? 0.05 : e.key === 'ArrowDown' ? -0.05 : 0
    if (by) {
      e.preventDefault()
      put(i, weights[i]! + by * (e.shiftKey ? 4 : 1), `rose-keys-${i}`)
    } else if (e.key === 'Delete' || e.key === ' ') {
      e.preventDefault()
      put(i, weights[i]! > 0 ? 0 : 1)
    }
  }
  return (
    <>
      <svg ref={svg} className={widgetsCss.ring} viewBox={`0 0 ${SIDE} ${SIDE}`} role="group" aria-label="Edge rose">
        {weights.map((w, i) => (
          <g key={i}>
            <path d={wedge(i, OUT)} fill="transparent" stroke="var(--line)" pointerEvents="none" />
            <path d={wedge(i, IN + w * (OUT - IN))} fill="var(--mantine-primary-color-filled)" opacity={i === at ? 0.55 : 0.32} pointerEvents="none" />
            {shown && <path d={wedge(i, IN + Math.sqrt(shown[i]! / most) * (OUT - IN) * 0.92)} fill="var(--ink)" opacity={0.35} pointerEvents="none" />}
            <path
              d={wedge(i, OUT)}
              fill="transparent"
              tabIndex={0}
              role="slider"
              aria-label={`Edges that face ${Math.round(i * 22.5)}°`}
              aria-valuemin={0}
              aria-valuemax={100}
              aria-valuenow={Math.round(w * 100)}
              style={{ cursor: 'grab' }}
              onFocus={() => setAt(i)}
              onKeyDown={(e) => keys(e, i)}
              onDoubleClick={() => put(i, w > 0 ? 0 : 1)}
              {...drag(i)}
            />
          </g>
        ))}
      </svg>
      <div className={tuningCss.ends} data-part="ends">
        <span>
          Facing {Math.round(at * 22.5)}°: {Math.round(weights[at]! * 100)} %
        </span>
        <span style={{ display: 'flex', gap: 4 }}>
          <Button size="compact-xs" variant="subtle" onClick={() => onChange(weights.map(() => 1))}>
            All
          </Button>
          <Button size="compact-xs" variant="subtle" onClick={() => onChange(weights.map(() => 0))}>
            None
          </Button>
        </span>
      </div>
    </>
  )
}
