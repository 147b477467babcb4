import type { PaletteSpec } from '@nimble-quill/core'
import { PaletteEditor } from '../widgets/PaletteEditor.tsx'
import { Frame } from '../Frame.tsx'
import type { EditorProps } from '../editor.ts'

export function PaletteParamEditor({ spec, value, onChange, driven, onHelp }: EditorProps<PaletteSpec>) {
  return (
    <Frame
      label={spec.title}
      help={spec.help}
      driven={driven}
      onHelp={onHelp}
      field={<span />}
      wide={<PaletteEditor colours={value} max={spec.max} onChange={onChange} />}
    />
  )
}
