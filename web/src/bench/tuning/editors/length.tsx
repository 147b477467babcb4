import { Select, Text } from '@mantine/core'
import { convertLength, MARK_PIXELS, resolveLength, type Length, type LengthSpec } from '@nimble-quill/core'
import { memo, useRef } from 'react'
import type { EditorProps } from '../editor.ts'
import { NumberControl } from '../NumberControl.tsx'

const UNITS: Length['unit'][] = ['px', '%', 'mm']

/** The unit of a length; not drawn again while the length itself is dragged. */
const UnitSelect = memo(
  function UnitSelect({ title, unit, onUnit }: { title: string; unit: Length['unit']; onUnit: (u: Length['unit']) => void }) {
    return (
      <Select
        w={58}
        aria-label={`${title}, unit`}
        data={UNITS}
        value={unit}
        onChange={(u) => onUnit(u as Length['unit'])}
        styles={{ input: { height: 26, minHeight: 26, paddingInline: 6 }, section: { width: 18 } }}
        comboboxProps={{ width: 80, position: 'bottom-end' }}
      />
    )
  },
  // what it calls reads the present value
  (a, b) => a.title === b.title && a.unit === b.unit,
)

export function LengthEditor({ spec, value, scale, ...rest }: EditorProps<LengthSpec>) {
  const now = useRef({ value, scale, onChange: rest.onChange })
  now.current = { value, scale, onChange: rest.onChange }
  const min = convertLength({ value: spec.min, unit: 'px' }, value.unit, scale).value
  const max = convertLength({ value: spec.max, unit: 'px' }, value.unit, scale).value
  const fallback = convertLength(spec.default, value.unit, scale).value
  // what is drawn smaller than this is not seen for what it is
  const faint = spec.mark === true && resolveLength(spec, value, scale) < MARK_PIXELS
  const control = (
    <NumberControl
      label={spec.title}
      help={spec.help}
      value={value.value}
      min={min}
      max={max}
      step={value.unit === 'px' ? 0.1 : 0.01}
      fallback={fallback}
      feel={spec.feel}
      suffix=""
      {...(rest.driven ? { driven: true } : {})}
      onHelp={rest.onHelp}
      onChange={(v, gesture) => rest.onChange({ value: v, unit: value.unit }, gesture)}
      after={
        <UnitSelect
          title={spec.title}
          unit={value.unit}
          onUnit={(unit) => {
            const l = convertLength(now.current.value, unit, now.current.scale)
            now.current.onChange({ value: Number(l.value.toPrecision(4)), unit: l.unit })
          }}
        />
      }
    />
  )
  return faint ? (
    <>
      {control}
      <Text size="xs" c="dimmed" data-part="too-small">
        Under 3 pixels here: a larger sheet would hold it.
      </Text>
    </>
  ) : (
    control
  )
}
