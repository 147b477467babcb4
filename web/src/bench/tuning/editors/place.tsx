import { NumberInput } from '@mantine/core'
import type { Place, PlaceSpec } from '@nimble-quill/core'
import type { OnChange } from '../widgets/on-change.ts'
import { Frame } from '../Frame.tsx'
import type { EditorProps } from '../editor.ts'

export function PlaceEditor({ spec, value, onChange, driven, onHelp }: EditorProps<PlaceSpec>) {
  return (
    <Frame
      label={spec.title}
      help={`${spec.help} The handle in the picture moves it.`}
      driven={driven}
      onHelp={onHelp}
      field={<PlaceFields title={spec.title} value={value} onChange={onChange} />}
    />
  )
}

/** A point of the picture by numbers, in per cent of its width and height. */
function PlaceFields({ title, value, onChange }: { title: string; value: Place; onChange: OnChange<Place> }) {
  const field = (axis: 'x' | 'y') => (
    <NumberInput
      aria-label={`${title}, ${axis === 'x' ? 'across' : 'down'}, per cent`}
      w={62}
      hideControls
      suffix=" %"
      decimalScale={1}
      value={Math.round(value[axis] * 1000) / 10}
      step={0.5}
      min={-200}
      max={300}
      onChange={(v) => typeof v === 'number' && v / 100 !== value[axis] && onChange({ ...value, [axis]: v / 100 }, `place-${axis}`)}
      styles={{ input: { textAlign: 'right', height: 26, minHeight: 26, paddingInline: 6 } }}
    />
  )
  return (
    <span style={{ display: 'flex', gap: 4 }}>
      {field('x')}
      {field('y')}
    </span>
  )
}
