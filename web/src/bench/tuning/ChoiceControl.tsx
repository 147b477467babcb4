import { Select } from '@mantine/core'
import { useId } from 'react'
import type { OnChange } from './widgets/on-change.ts'
import { Frame } from './Frame.tsx'

/** One of several named values. */
export function ChoiceControl({
  title,
  help,
  options,
  value,
  driven,
  onHelp,
  onChange,
}: {
  title: string
  help: string
  options: readonly { value: string; title: string }[]
  value: string
  driven: boolean
  onHelp: (text: string) => void
  onChange: OnChange<string>
}) {
  const id = useId()
  return (
    <Frame
      label={title}
      help={help}
      driven={driven}
      onHelp={onHelp}
      labelFor={id}
      field={
        <Select
          id={id}
          w={152}
          data={options.map((o) => ({ value: o.value, label: o.title }))}
          value={value}
          onChange={(v) => v !== null && onChange(v)}
          styles={{ input: { height: 26, minHeight: 26 } }}
          comboboxProps={{ position: 'bottom-end', width: 190 }}
        />
      }
    />
  )
}
