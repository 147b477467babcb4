import type { ChoiceSpec } from '@nimble-quill/core'
import { ChoiceControl } from '../ChoiceControl.tsx'
import type { EditorProps } from '../editor.ts'

export function ChoiceEditor({ spec, value, driven, onHelp, onChange }: EditorProps<ChoiceSpec>) {
  return <ChoiceControl title={spec.title} help={spec.help} options={spec.options} value={value} driven={driven} onHelp={onHelp} onChange={onChange} />
}
