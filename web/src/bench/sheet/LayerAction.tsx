import { ActionIcon, Tooltip } from '@mantine/core'

/** Layer actions that stand in the tuning column's head. */
export function LayerAction({ label, onClick, children }: { label: string; onClick: () => void; children: React.ReactNode }) {
  return (
    <Tooltip label={label}>
      <ActionIcon aria-label={label} onClick={onClick}>
        {children}
      </ActionIcon>
    </Tooltip>
  )
}
