import { SegmentedControl, TextInput } from '@mantine/core'
import type { Colourway } from '@nimble-quill/core'
import { useEffect, useState } from 'react'
import { NumberControl } from '../NumberControl.tsx'
import tuningCss from '../tuning.module.css'
import { GradientEditor } from './GradientEditor.tsx'
import type { OnChange } from './on-change.ts'
import { PaletteEditor } from './PaletteEditor.tsx'

/** A palette holds so many colours. */
const MOST = 16

/** One colourway by hand: its name, and hues turned, a palette from dark to light, or a gradient. All panels that show it change. */
export function ColourwayEditor({ way, onHelp, onChange }: { way: Colourway; onHelp: (t: string) => void; onChange: OnChange<Colourway> }) {
  const { change } = way
  const [name, setName] = useState(way.name)
  useEffect(() => setName(way.name), [way.name])
  const rename = () => {
    if (name.trim() && name !== way.name) onChange({ ...way, name: name.trim().slice(0, 120) })
    else setName(way.name)
  }
  const put = (next: Colourway['change'], gesture?: string) => onChange({ ...way, change: next }, gesture)
  const colours = change.type === 'palette' ? change.colours : change.type === 'gradient' ? change.stops.map(([, c]) => c) : ['#1d1d1b', '#b4532a', '#f3e6c8']
  const as = (type: string) => {
    if (type === change.type) return
    if (type === 'hue') put({ type: 'hue', degrees: 60 })
    else if (type === 'palette') put({ type: 'palette', colours })
    else put({ type: 'gradient', stops: colours.map((c, i) => [colours.length > 1 ? i / (colours.length - 1) : 0, c]) })
  }
  return (
    <div role="group" aria-label="Colourway">
      <TextInput
        size="xs"
        label="Colourway"
        value={name}
        maxLength={120}
        onChange={(e) => setName(e.currentTarget.value)}
        onBlur={rename}
        onKeyDown={(e) => e.key === 'Enter' && e.currentTarget.blur()}
      />
      <div
        className={tuningCss.control}
        onPointerEnter={() =>
          onHelp('All hues turned; or tones from dark to light taken by the colours of a palette, one after the other; or by those of a gradient.')
        }
      >
        <SegmentedControl
          size="xs"
          aria-label="Colourway by"
          data={[
            { value: 'hue', label: 'Hue turned' },
            { value: 'palette', label: 'Palette' },
            { value: 'gradient', label: 'Gradient' },
          ]}
          value={change.type}
          onChange={as}
        />
      </div>
      {change.type === 'hue' && (
        <NumberControl
          label="Turned by"
          help="Degrees round the colour circle."
          value={change.degrees}
          min={0}
          max={360}
          step={1}
          fallback={0}
          feel="even"
          suffix="°"
          onHelp={onHelp}
          onChange={(degrees, gesture) => put({ type: 'hue', degrees }, gesture)}
        />
      )}
      {change.type === 'palette' && (
        <PaletteEditor
          colours={change.colours}
          max={MOST}
          finds={false}
          onChange={(next, gesture) => next.length > 0 && put({ type: 'palette', colours: next }, gesture)}
        />
      )}
      {change.type === 'gradient' && (
        <GradientEditor stops={change.stops} space="oklab" onChange={(stops, gesture) => put({ type: 'gradient', stops }, gesture)} />
      )}
    </div>
  )
}
