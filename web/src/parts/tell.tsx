import { Button } from '@mantine/core'
import { notifications } from '@mantine/notifications'

/** Tells of a failure: what happened, what is safe, what to do. */
export function tellTrouble(message: string, title?: string): void {
  notifications.show({ message, color: 'red', autoClose: 9000, ...(title ? { title } : {}), role: 'alert' })
}
export function tell(message: string): void {
  notifications.show({ message, autoClose: 4000 })
}

/** Tells that something takes its time, until the function given back is called. */
export function tellWorking(message: string): () => void {
  const id = notifications.show({ message, loading: true, autoClose: false, withCloseButton: false })
  return () => notifications.hide(id)
}

/** A word that something is gone, with the way back. */
export function offerUndo(message: string, undo: () => void): void {
  const id = notifications.show({
    message: (
      <div style={{ display: 'flex', gap: 12, alignItems: 'center' }}>
        <span>{message}</span>
        <Button
          variant="default"
          onClick={() => {
            undo()
            notifications.hide(id)
          }}
        >
          Undo
        </Button>
      </div>
    ),
    autoClose: 12_000,
  })
}
