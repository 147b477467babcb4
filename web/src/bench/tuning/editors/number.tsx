import type { NumberSpec } from '@nimble-quill/core'
import type { EditorProps } from '../editor.ts'
import { NumberControl } from '../NumberControl.tsx'

export function NumberEditor({ spec, value, ...rest }: EditorProps<NumberSpec>) {
  const k = spec.unit === '%' ? 100 : 1
  return (
    <NumberControl
      label={spec.title}
      help={spec.help}
      value={value * k}
      min={spec.min * k}
      max={spec.max * k}
      step={spec.step * k}
      fallback={spec.default * k}
      feel={spec.feel}
      suffix={spec.unit === '%' ? ' %' : spec.unit === '°' ? '°' : ''}
      {...(rest.driven ? { driven: true } : {})}
      onHelp={rest.onHelp}
      onChange={(v, gesture) => rest.onChange(Number((v / k).toFixed(5)), gesture)}
    />
  )
}
