import { ActionIcon, NumberInput, Tooltip } from '@mantine/core'
import type { SeedSpec } from '@nimble-quill/core'
import { IconDice3 } from '@tabler/icons-react'
import { Frame } from '../Frame.tsx'
import type { EditorProps } from '../editor.ts'

export function SeedEditor({ spec, value, onChange, driven, onHelp }: EditorProps<SeedSpec>) {
  return (
    <Frame
      label={spec.title}
      help={spec.help}
      driven={driven}
      onHelp={onHelp}
      field={
        <span style={{ display: 'flex', gap: 4, alignItems: 'center' }}>
          {' '}
          <NumberInput
            aria-label={spec.title}
            w={88}
            hideControls
            min={0}
            max={0x7fffffff}
            value={value}
            onChange={(v) => typeof v === 'number' && Number.isInteger(v) && onChange(v)}
            styles={{ input: { textAlign: 'right', height: 26, minHeight: 26 } }}
          />
          <Tooltip label="Deal again">
            <ActionIcon aria-label="Deal again" onClick={() => onChange(crypto.getRandomValues(new Uint16Array(1))[0]!)}>
              <IconDice3 size={17} />
            </ActionIcon>
          </Tooltip>
        </span>
      }
    />
  )
}
