import { boundariesOf, type BoundsSpec } from '@nimble-quill/core'
import { BoundsEditor } from '../widgets/BoundsEditor.tsx'
import { Frame } from '../Frame.tsx'
import type { EditorProps } from '../editor.ts'

export function BoundsParamEditor({ spec, value, peer, onChange, driven, onHelp }: EditorProps<BoundsSpec>) {
  return (
    <Frame
      label={spec.title}
      help={`${spec.help} Click adds one, Delete removes it.`}
      driven={driven}
      onHelp={onHelp}
      field={<span />}
      wide={<BoundsEditor set={value} even={boundariesOf(Math.round(Number(peer ?? 4)), [])} max={spec.max} onChange={onChange} />}
    />
  )
}
