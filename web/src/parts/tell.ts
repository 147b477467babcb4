import { notifications } from '@mantine/notifications'

/** Tells of a failure: what happened, what is safe, what to do. */
export function tellTrouble(message: string, title?: string): void {
  notifications.show({ message, color: 'red', autoClose: 9000, ...(title ? { title } : {}), role: 'alert' })
}
export function tell(message: string): void {
  notifications.show({ message, autoClose: 4000 })
}
