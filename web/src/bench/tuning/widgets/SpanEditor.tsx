import { Switch } from '@mantine/core'
import type { Span } from '@nimble-quill/core'
import { useRef, useState, type KeyboardEvent } from 'react'
import { useMeasured } from '../measured.ts'
import { useDragIn } from './drag.ts'
import { tonePath } from './TonePath.tsx'
import widgetsCss from './widgets.module.css'
import tuningCss from '../tuning.module.css'
import partsCss from '../../../parts/parts.module.css'

const W = 264
const H = 44
const ZONES = ['0', 'I', 'II', 'III', 'IV', 'V', 'VI', 'VII', 'VIII', 'IX', 'X']
/** Lower midtones to highlights: what most spans are about. */
const FIRST: Span = { low: 0.3, high: 0.85, softLow: 0.12, softHigh: 0.12 }

/** The zone a tone lies in: eleven equal ones from black to white, as photographers number them. */
export const zoneOf = (tone: number): string => ZONES[Math.min(10, Math.max(0, Math.floor(tone * 11)))]!

type End = 'softLow' | 'low' | 'high' | 'softHigh'
const ends: { end: End; title: string }[] = [
  { end: 'softLow', title: 'Fades in from' },
  { end: 'low', title: 'Full from' },
  { end: 'high', title: 'Full to' },
  { end: 'softHigh', title: 'Fades out by' },
]
const placeOf = (s: Span, end: End) => (end === 'softLow' ? s.low - s.softLow : end === 'low' ? s.low : end === 'high' ? s.high : s.high + s.softHigh)

/** The span with one of its ends moved to a tone; the others are pushed along where they must be. */
export function withEnd(s: Span, end: End, tone: number): Span {
  const v = Math.round(Math.min(1, Math.max(0, tone)) * 1000) / 1000
  switch (end) {
    case 'softLow':
      return { ...s, softLow: Math.max(0, Math.round((s.low - v) * 1000) / 1000) }
    case 'softHigh':
      return { ...s, softHigh: Math.max(0, Math.round((v - s.high) * 1000) / 1000) }
    case 'low':
      return { ...s, low: Math.min(v, s.high) }
    case 'high':
      return { ...s, high: Math.max(v, s.low) }
  }
}

/** Between which tones a step acts: drawn over its input's histogram on the zone scale, its ends dragged or moved with the arrow keys. */
export function SpanEditor({
  title = 'Tonal span',
  span,
  onChange,
  onHelp,
}: {
  /** Which tones they are. */
  title?: string
  span: Span | null
  onChange: (s: Span | null, gesture?: string) => void
  onHelp: (t: string) => void
}) {
  const svg = useRef<SVGSVGElement>(null)
  const luma = useMeasured()?.before.luma
  const [at, setAt] = useState<End>('low')
  const drag = useDragIn<End>(
    () => svg.current,
    (x, _, gesture, end) => span && onChange(withEnd(span, end, x), gesture),
    setAt,
  )
  const keys = (e: KeyboardEvent, end: End) => {
    const by = e.key === 'ArrowLeft' ? -0.01 : e.key === 'ArrowRight' ? 0.01 : 0
    if (!by || !span) return
    e.preventDefault()
    onChange(withEnd(span, end, placeOf(span, end) + by * (e.shiftKey ? 5 : 1)), `span-keys-${end}`)
  }
  const x = (v: number) => Math.min(1, Math.max(0, v)) * W
  return (
    <div
      className={widgetsCss.span}
      onPointerEnter={() =>
        onHelp('The tones between which the step acts, on the photographers’ zone scale; outside the soft ends the picture stays as it was.')
      }
    >
      <div className={tuningCss.control}>
        <span className={tuningCss.label}>{title}</span>
        <span style={{ display: 'flex', gap: 8, alignItems: 'center', fontSize: 12 }}>
          <span className={partsCss.faint}>{span ? `Zones ${zoneOf(span.low)} to ${zoneOf(span.high)}` : 'All tones'}</span>
          <Switch size="xs" checked={span !== null} aria-label={title} onChange={(e) => onChange(e.currentTarget.checked ? FIRST : null)} />
        </span>
      </div>
      {span && (
        <svg ref={svg} viewBox={`0 0 ${W} ${H + 14}`} role="group" aria-label="Tonal span on the zone scale">
          {luma && <path d={tonePath(luma, W, H)} fill="var(--line)" />}
          <path
            d={`M${x(placeOf(span, 'softLow'))} ${H}L${x(span.low)} 4L${x(span.high)} 4L${x(placeOf(span, 'softHigh'))} ${H}`}
            fill="color-mix(in srgb, var(--mantine-primary-color-filled) 22%, transparent)"
            stroke="var(--mantine-primary-color-filled)"
          />
          {ZONES.map((z, i) => (
            <text key={z} x={((i + 0.5) / 11) * W} y={H + 11} textAnchor="middle" fontSize={9} fill="var(--faint)">
              {z}
            </text>
          ))}
          {ends.map(({ end, title }) => (
            <circle
              key={end}
              cx={x(placeOf(span, end))}
              cy={end === 'low' || end === 'high' ? 4 : H}
              r={end === at ? 6 : 5}
              fill="var(--ground)"
              stroke="var(--mantine-primary-color-filled)"
              strokeWidth={2}
              tabIndex={0}
              role="slider"
              aria-label={title}
              aria-valuemin={0}
              aria-valuemax={255}
              aria-valuenow={Math.round(placeOf(span, end) * 255)}
              aria-valuetext={`zone ${zoneOf(placeOf(span, end))}`}
              style={{ cursor: 'ew-resize' }}
              onFocus={() => setAt(end)}
              onKeyDown={(e) => keys(e, end)}
              {...drag(end)}
            />
          ))}
        </svg>
      )}
    </div>
  )
}
