import { Button } from '@mantine/core'
import { notifications } from '@mantine/notifications'

/** Tells of a failure: what happened, what is safe, what to do. */
export function tellTrouble(message: string, title?: string): void {
  notifications.show({ message, color: 'red', autoClose: 9000, ...(title ? { title } : {}), role: 'alert' })
}
export function tell(message: string): void {
  notifications.show({ message, autoClose: 4000 })
}

/** Tells that something takes its time, with a way to stop it, until the function given back is called. */
export function tellWorking(message: string, stop: () => void): () => void {
  const id = notifications.show({ message: <WithButton message={message} label="Stop" run={stop} />, loading: true, autoClose: false, withCloseButton: false })
  return () => notifications.hide(id)
}

function WithButton({ message, label, run }: { message: string; label: string; run: () => void }) {
  return (
    <div style={{ display: 'flex', gap: 12, alignItems: 'center' }}>
      <span>{message}</span>
      <Button variant="default" onClick={run}>
        {label}
      </Button>
    </div>
  )
}

/** A word that something is gone, with the way back. */
export function offerUndo(message: string, undo: () => void): void {
  const id = notifications.show({
    message: (
      <WithButton
        message={message}
        label="Undo"
        run={() => {
          undo()
          notifications.hide(id)
        }}
      />
    ),
    autoClose: 12_000,
  })
}
