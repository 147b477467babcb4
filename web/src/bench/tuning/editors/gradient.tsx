import type { GradientSpec } from '@nimble-quill/core'
import { GradientEditor } from '../widgets/GradientEditor.tsx'
import { Frame } from '../Frame.tsx'
import type { EditorProps } from '../editor.ts'

export function GradientParamEditor({ spec, value, peer, onChange, driven, onHelp }: EditorProps<GradientSpec>) {
  return (
    <Frame
      label={spec.title}
      help={`${spec.help} Click adds a stop, Delete removes it.`}
      driven={driven}
      onHelp={onHelp}
      field={<span />}
      wide={<GradientEditor stops={value} space={(peer as 'oklab' | undefined) ?? 'oklab'} onChange={onChange} />}
    />
  )
}
