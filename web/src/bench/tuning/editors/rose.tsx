import type { RoseSpec } from '@nimble-quill/core'
import { RoseEditor } from '../widgets/RoseEditor.tsx'
import { Frame } from '../Frame.tsx'
import type { EditorProps } from '../editor.ts'

export function RoseParamEditor({ spec, value, onChange, driven, onHelp }: EditorProps<RoseSpec>) {
  return (
    <Frame
      label={spec.title}
      help={`${spec.help} A double click takes a way out, or brings it back.`}
      driven={driven}
      onHelp={onHelp}
      field={<span />}
      wide={<RoseEditor weights={value} onChange={onChange} />}
    />
  )
}
