import type { Control } from '@nimble-quill/core'
import type { OnChange } from './widgets/on-change.ts'
import { ChoiceControl } from './ChoiceControl.tsx'
import { NumberControl } from './NumberControl.tsx'

/** A control that a recipe brings out, a number or a choice; one of a parameter's type is shown as that parameter is. */
export function RecipeControl({
  control,
  value,
  onHelp,
  onChange,
}: {
  control: Control
  value: number | string
  onHelp: (t: string) => void
  onChange: OnChange<number | string>
}) {
  const { kind } = control
  if (kind.type === 'choice') {
    return (
      <ChoiceControl
        title={control.title}
        help={control.help}
        options={kind.options}
        value={String(value)}
        driven={false}
        onHelp={onHelp}
        onChange={onChange}
      />
    )
  }
  if (kind.type === 'value') return null
  return (
    <NumberControl
      label={control.title}
      help={control.help}
      value={Number(value)}
      min={kind.min}
      max={kind.max}
      step={kind.step}
      fallback={Number(control.default)}
      feel="even"
      suffix=""
      ends={[kind.low, kind.high]}
      onHelp={onHelp}
      onChange={onChange}
    />
  )
}
