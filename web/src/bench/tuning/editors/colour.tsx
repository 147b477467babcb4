import type { ColourSpec } from '@nimble-quill/core'
import { ColourField } from '../widgets/ColourField.tsx'
import { Frame } from '../Frame.tsx'
import type { EditorProps } from '../editor.ts'

export function ColourEditor({ spec, value, onChange, driven, onHelp }: EditorProps<ColourSpec>) {
  return (
    <Frame label={spec.title} help={spec.help} driven={driven} onHelp={onHelp} field={<ColourField label={spec.title} value={value} onChange={onChange} />} />
  )
}
