import { NumberInput, SegmentedControl, Select } from '@mantine/core'
import { gradientAt, mixedStops, type GradientChange, type GradientStop, type Layer } from '@nimble-quill/core'
import { useState } from 'react'
import { useAct } from '../../store/store.ts'
import { command } from '../slice.ts'
import tuningCss from './tuning.module.css'
import { GradientEditor } from './widgets/GradientEditor.tsx'

/** How a gradient looks over squares of light and dark, so that its cover is seen. */
function coveringCss(stops: Parameters<typeof gradientAt>[0]): string {
  const at = gradientAt(stops, Math.pow)
  const colour = (t: number) => {
    const { rgb, alpha } = at(t)
    return `rgb(${rgb.map((v) => Math.round(v * 255)).join(' ')} / ${alpha.toFixed(3)})`
  }
  const steps = Array.from({ length: 33 }, (_, i) => `${colour(i / 32)} ${(i / 32) * 100}%`)
  return `linear-gradient(to right, ${steps.join(', ')}), conic-gradient(#aaa 25%, #eee 0 50%, #aaa 0 75%, #eee 0) 0 0 / 12px 12px`
}

/** What a gradient layer starts from: its colours and how far each covers, its shape, what lies beyond its ends. Its place is dragged on the picture. */
export function GradientSection({ layer, onHelp }: { layer: Layer; onHelp: (t: string) => void }) {
  const act = useAct()
  const [at, setAt] = useState(0)
  const { source } = layer
  if (source.type !== 'gradient') return null
  const put = (change: GradientChange, gesture?: string) =>
    act(command({ command: { type: 'set-gradient', layer: layer.id, change }, ...(gesture ? { gesture: `${layer.id}.gradient.${gesture}` } : {}) }))
  const chosen = Math.min(at, source.stops.length - 1)
  return (
    <>
      <div className={tuningCss.control} onPointerEnter={() => onHelp('Along a line, or outwards from a middle. Drag both ends on the picture.')}>
        <span className={tuningCss.label}>Shape</span>
        <SegmentedControl
          size="xs"
          aria-label="Shape of the gradient"
          data={[
            { value: 'straight', label: 'Straight' },
            { value: 'round', label: 'Round' },
          ]}
          value={source.shape}
          onChange={(v) => put({ shape: v as 'straight' | 'round' })}
        />
      </div>
      <div
        className={tuningCss.control}
        onPointerEnter={() => onHelp('Colours along the way, mixed in OKLab. A stop that does not cover lets through what lies below.')}
      >
        <span className={tuningCss.label}>Colours</span>
        <span />
        <div className={tuningCss.wide}>
          <GradientEditor
            stops={source.stops.map(([x, hex]): GradientStop => [x, hex])}
            space="oklab"
            onChosen={setAt}
            background={coveringCss(source.stops)}
            onChange={(stops, gesture) => put({ stops: mixedStops(source.stops, stops) }, gesture)}
          />
        </div>
      </div>
      <div className={tuningCss.control} onPointerEnter={() => onHelp('How much the chosen stop covers.')}>
        <label className={tuningCss.label} htmlFor="stop-cover">
          Cover of stop {chosen + 1}
        </label>
        <NumberInput
          id="stop-cover"
          w={86}
          hideControls
          suffix=" %"
          min={0}
          max={100}
          value={Math.round(source.stops[chosen]![2] * 100)}
          onChange={(v) =>
            typeof v === 'number' &&
            v / 100 !== source.stops[chosen]![2] &&
            put({ stops: source.stops.map((s, i) => (i === chosen ? [s[0], s[1], v / 100] : s)) }, `cover-${chosen}`)
          }
          styles={{ input: { textAlign: 'right', height: 26, minHeight: 26 } }}
        />
      </div>
      <div
        className={tuningCss.control}
        onPointerEnter={() => onHelp('What lies beyond its ends: their colours go on, it begins anew, or goes back and forth.')}
      >
        <label className={tuningCss.label} htmlFor="gradient-beyond">
          Beyond its ends
        </label>
        <Select
          id="gradient-beyond"
          w={152}
          data={[
            { value: 'last colour', label: 'The last colour' },
            { value: 'repeat', label: 'Again from its start' },
            { value: 'mirror', label: 'Back and forth' },
          ]}
          value={source.beyond}
          onChange={(v) => v && put({ beyond: v as typeof source.beyond })}
        />
      </div>
    </>
  )
}
