import type { CurveSpec } from '@nimble-quill/core'
import { CurveEditor } from '../widgets/CurveEditor.tsx'
import { Frame } from '../Frame.tsx'
import type { EditorProps } from '../editor.ts'

export function CurveParamEditor({ spec, value, onChange, driven, onHelp }: EditorProps<CurveSpec>) {
  return (
    <Frame
      label={spec.title}
      help={`${spec.help} Click adds a point, Delete removes it.`}
      driven={driven}
      onHelp={onHelp}
      field={<span />}
      wide={<CurveEditor points={value} onChange={onChange} />}
    />
  )
}
