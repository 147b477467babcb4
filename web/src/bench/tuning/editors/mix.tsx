import type { MixSpec } from '@nimble-quill/core'
import { MixTable } from '../widgets/MixTable.tsx'
import { Frame } from '../Frame.tsx'
import type { EditorProps } from '../editor.ts'

export function MixEditor({ spec, value, onChange, driven, onHelp }: EditorProps<MixSpec>) {
  return (
    <Frame
      label={spec.title}
      help={spec.help}
      driven={driven}
      onHelp={onHelp}
      field={<span />}
      wide={<MixTable rows={spec.rows} columns={spec.columns} values={value} onChange={onChange} />}
    />
  )
}
