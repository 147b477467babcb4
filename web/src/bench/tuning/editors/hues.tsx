import type { HuesSpec } from '@nimble-quill/core'
import { HueRing } from '../widgets/HueRing.tsx'
import { Frame } from '../Frame.tsx'
import type { EditorProps } from '../editor.ts'

export function HuesEditor({ spec, value, onChange, driven, onHelp }: EditorProps<HuesSpec>) {
  return (
    <Frame
      label={spec.title}
      help={`${spec.help} A double click puts a hue back.`}
      driven={driven}
      onHelp={onHelp}
      field={<span />}
      wide={<HueRing title={spec.title} values={value} min={spec.min} max={spec.max} onChange={onChange} />}
    />
  )
}
