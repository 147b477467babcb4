import { Switch } from '@mantine/core'
import type { FlagSpec } from '@nimble-quill/core'
import { Frame } from '../Frame.tsx'
import type { EditorProps } from '../editor.ts'

export function FlagEditor({ spec, value, onChange, driven, onHelp }: EditorProps<FlagSpec>) {
  return (
    <Frame
      label={spec.title}
      help={spec.help}
      driven={driven}
      onHelp={onHelp}
      field={<Switch size="xs" aria-label={spec.title} checked={value} onChange={(e) => onChange(e.currentTarget.checked)} />}
    />
  )
}
