import { Checkbox, Tooltip } from '@mantine/core'

/** On and off, by the same tick that proofs have. */
export function Tick({ label, on, onChange }: { label: string; on: boolean; onChange: (on: boolean) => void }) {
  return (
    <Tooltip label={`${label}: ${on ? 'on' : 'off'}`}>
      <Checkbox size="xs" mr={8} aria-label={label} checked={on} onChange={(e) => onChange(e.currentTarget.checked)} />
    </Tooltip>
  )
}
