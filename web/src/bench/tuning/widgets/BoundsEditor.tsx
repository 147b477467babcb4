import { Button } from '@mantine/core'
import { useRef, type KeyboardEvent, type PointerEvent } from 'react'
import type { OnChange } from './on-change.ts'
import { useMeasured } from '../measured.ts'
import { useDragIn } from './drag.ts'
import { tonePath } from './TonePath.tsx'
import widgetsCss from './widgets.module.css'
import tuningCss from '../tuning.module.css'

const W = 256
const H = 74

/** Boundaries between tones, dragged on the histogram; none set: shown where the step lays them. */
export function BoundsEditor({ set, even, max, onChange }: { set: number[]; even: number[]; max: number; onChange: OnChange<number[]> }) {
  const svg = useRef<SVGSVGElement>(null)
  const luma = useMeasured()?.before.luma
  const shown = set.length ? set : even
  const moved = (i: number, tone: number) => {
    const low = i === 0 ? 1 : shown[i - 1]! + 1
    const high = i === shown.length - 1 ? 254 : shown[i + 1]! - 1
    return shown.map((v, j) => (j === i ? Math.round(Math.min(high, Math.max(low, tone)) * 10) / 10 : v))
  }
  const drag = useDragIn<number>(
    () => svg.current,
    (x, _, gesture, i) => onChange(moved(i, x * 255), gesture),
  )
  const add = (e: PointerEvent) => {
    if (e.target !== svg.current && !(e.target as Element).matches('[data-ground]')) return
    if (shown.length >= max) return
    const box = svg.current!.getBoundingClientRect()
    const tone = Math.round(((e.clientX - box.left) / box.width) * 255)
    if (shown.some((v) => Math.abs(v - tone) < 4) || tone < 2 || tone > 253) return
    onChange([...shown, tone].sort((a, b) => a - b))
  }
  const keys = (e: KeyboardEvent, i: number) => {
    const by = e.key === 'ArrowLeft' ? -1 : e.key === 'ArrowRight' ? 1 : 0
    if (by) {
      e.preventDefault()
      onChange(moved(i, shown[i]! + by * (e.shiftKey ? 10 : 1)), `bounds-keys-${i}`)
    } else if ((e.key === 'Delete' || e.key === 'Backspace') && shown.length > 1) {
      e.preventDefault()
      onChange(shown.filter((_, j) => j !== i))
    }
  }
  const edges = [0, ...shown, 255]
  return (
    <>
      <svg
        ref={svg}
        className={widgetsCss.bounds}
        viewBox={`0 0 ${W} ${H}`}
        preserveAspectRatio="none"
        role="group"
        aria-label="Boundaries"
        onPointerDown={add}
      >
        <rect data-ground width={W} height={H} fill="transparent" />
        {luma && <path d={tonePath(luma, W, H - 10)} fill="var(--line)" pointerEvents="none" />}
        {edges.slice(1).map((e, i) => (
          <rect
            key={i}
            x={(edges[i]! / 255) * W}
            width={((e - edges[i]!) / 255) * W}
            y={H - 10}
            height={10}
            fill={`rgb(${[0, 0, 0].map(() => Math.round((i / Math.max(1, shown.length)) * 255)).join()})`}
            pointerEvents="none"
          />
        ))}
        {shown.map((v, i) => (
          <g key={i}>
            <rect x={(v / 255) * W - 0.75} y={0} width={1.5} height={H} fill="var(--mantine-primary-color-filled)" pointerEvents="none" />
            <rect
              x={(v / 255) * W - 7}
              y={0}
              width={14}
              height={H}
              fill="transparent"
              tabIndex={0}
              role="slider"
              aria-label={`Boundary ${i + 1}`}
              aria-valuemin={0}
              aria-valuemax={255}
              aria-valuenow={Math.round(v)}
              style={{ cursor: 'ew-resize' }}
              onKeyDown={(e) => keys(e, i)}
              {...drag(i)}
            />
          </g>
        ))}
      </svg>
      <div className={tuningCss.ends} data-part="ends">
        <span>{shown.map((v) => Math.round(v)).join(' · ')}</span>
        {set.length > 0 && (
          <Button size="compact-xs" variant="subtle" onClick={() => onChange([])}>
            Evenly
          </Button>
        )}
      </div>
    </>
  )
}
