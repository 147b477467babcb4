import type { PictureSpec } from '@nimble-quill/core'
import { PictureField } from '../widgets/PictureField.tsx'
import { Frame } from '../Frame.tsx'
import type { EditorProps } from '../editor.ts'

export function PictureEditor({ spec, value, onChange, driven, onHelp }: EditorProps<PictureSpec>) {
  return (
    <Frame label={spec.title} help={spec.help} driven={driven} onHelp={onHelp} field={<PictureField label={spec.title} value={value} onChange={onChange} />} />
  )
}
