import { NumberInput } from '@mantine/core'
import { HALF_AXIS, type EllipseSpec } from '@nimble-quill/core'
import type { EditorProps } from '../editor.ts'
import { Frame } from '../Frame.tsx'

const FIELDS = [
  // what is typed is the whole breadth and height
  ['x', 'Middle, across', 'across', 1],
  ['y', 'Middle, down', 'down', 1],
  ['rx', 'Breadth', 'breadth', 2],
  ['ry', 'Height', 'height', 2],
] as const

/** An ellipse by numbers, in per cent of the picture's width and height; in the picture it is dragged. */
export function EllipseEditor({ spec, value, onChange, driven, onHelp }: EditorProps<EllipseSpec>) {
  return (
    <Frame
      label={spec.title}
      help={`${spec.help} The handles in the picture move it.`}
      driven={driven}
      onHelp={onHelp}
      field={null}
      wide={
        <div style={{ display: 'grid', gridTemplateColumns: '1fr 1fr', gap: '4px 10px' }}>
          {FIELDS.map(([name, title, short, times]) => (
            <NumberInput
              key={name}
              aria-label={`${spec.title}, ${title.toLowerCase()}, per cent`}
              leftSection={<small>{short}</small>}
              leftSectionWidth={52}
              hideControls
              suffix=" %"
              decimalScale={1}
              value={Math.round(value[name] * times * 1000) / 10}
              step={0.5}
              min={name === 'x' || name === 'y' ? -200 : HALF_AXIS.min * 200}
              max={name === 'x' || name === 'y' ? 300 : HALF_AXIS.max * 200}
              onChange={(v) => typeof v === 'number' && v / 100 / times !== value[name] && onChange({ ...value, [name]: v / 100 / times }, `ellipse-${name}`)}
              styles={{ input: { textAlign: 'right', height: 26, minHeight: 26, paddingInlineEnd: 6 } }}
            />
          ))}
        </div>
      }
    />
  )
}
