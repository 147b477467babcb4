import { SegmentedControl } from '@mantine/core'
import type { Histogram as Counts } from '@nimble-quill/core'
import { memo, useMemo, useState } from 'react'
import { Area, AreaChart, ReferenceLine, XAxis, YAxis } from 'recharts'
import { useMeasured } from '../measured.ts'
import widgetsCss from './widgets.module.css'

/** Tones that share a bar: 256 would take longer to draw than a frame lasts. */
const EACH = 4

const grouped = (counts: readonly number[], total: number) =>
  Array.from({ length: 256 / EACH }, (_, i) => Math.sqrt(counts.slice(i * EACH, i * EACH + EACH).reduce((a, b) => a + b, 0) / total))
const sum = (counts: readonly number[]) => counts.reduce((a, b) => a + b, 0) || 1
const share = (n: number, total: number) =>
  n / total < 0.0005 ? null : n / total < 0.1 ? `${((n / total) * 100).toFixed(1)} %` : `${Math.round((n / total) * 100)} %`

type Shown = 'luma' | 'rgb'

/**
 * The tones of the chosen step's input (filled) and of its result (outlined), with what is cut off at black and white.
 * @param mark a tone 0…255 that the step goes by, drawn as a line
 */
export const Histogram = memo(function Histogram({ width, mark }: { width: number; mark: number | null }) {
  const measured = useMeasured()
  const [shown, setShown] = useState<Shown>('luma')
  const data = useMemo(() => (measured ? rows(measured.before, measured.after, shown) : []), [measured, shown])
  if (!measured) return <div className={widgetsCss.histogram} data-part="histogram" aria-hidden />
  const after = measured.after.luma
  const total = sum(after)
  const [black, white] = [share(after[0]!, total), share(after[255]!, total)]
  return (
    <div className={widgetsCss.histogram} data-part="histogram">
      <AreaChart
        width={width}
        height={64}
        data={data}
        margin={{ top: 2, right: 0, bottom: 0, left: 0 }}
        title="Histogram"
        desc="Tones before (filled) and after (outlined) the step"
      >
        <XAxis dataKey="tone" type="number" domain={[0, 252]} hide />
        <YAxis hide domain={[0, (max: number) => Math.min(max, 0.35)]} allowDataOverflow />
        {shown === 'luma' ? (
          <>
            <Area dataKey="before" stroke="none" fill="var(--line)" fillOpacity={1} isAnimationActive={false} />
            <Area dataKey="after" stroke="var(--ink)" strokeWidth={1.3} fill="none" isAnimationActive={false} />
          </>
        ) : (
          <>
            <Area dataKey="red" stroke="#c8442f" fill="#c8442f" fillOpacity={0.18} isAnimationActive={false} />
            <Area dataKey="green" stroke="#3f8a45" fill="#3f8a45" fillOpacity={0.18} isAnimationActive={false} />
            <Area dataKey="blue" stroke="#3b64b8" fill="#3b64b8" fillOpacity={0.18} isAnimationActive={false} />
          </>
        )}
        {mark !== null && <ReferenceLine x={Math.min(252, mark)} stroke="var(--mantine-primary-color-filled)" strokeWidth={2} />}
      </AreaChart>
      <div className={widgetsCss.cut} data-part="ends">
        <span data-cut={black !== null || undefined}>{black ? `▾ ${black} black` : '0'}</span>
        <SegmentedControl
          size="xs"
          aria-label="Histogram of"
          value={shown}
          onChange={(v) => setShown(v as Shown)}
          data={[
            { value: 'luma', label: 'Luminance' },
            { value: 'rgb', label: 'RGB' },
          ]}
          styles={{ label: { fontSize: 10.5, padding: '0 6px' } }}
        />
        <span data-cut={white !== null || undefined}>{white ? `${white} white ▾` : '255'}</span>
      </div>
    </div>
  )
})

function rows(before: Counts, after: Counts, shown: Shown): Record<string, number>[] {
  if (shown === 'luma') {
    const [b, a] = [grouped(before.luma, sum(before.luma)), grouped(after.luma, sum(after.luma))]
    return b.map((v, i) => ({ tone: i * EACH, before: v, after: a[i]! }))
  }
  const [r, g, bl] = [grouped(after.red, sum(after.red)), grouped(after.green, sum(after.green)), grouped(after.blue, sum(after.blue))]
  return r.map((v, i) => ({ tone: i * EACH, red: v, green: g[i]!, blue: bl[i]! }))
}
