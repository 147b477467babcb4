/** Changes of one drag share a gesture and are undone together. */
export type OnChange<T> = (value: T, gesture?: string) => void
