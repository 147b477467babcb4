import { useDrag } from '@use-gesture/react'
import { useRef } from 'react'

let drags = 0

interface Ends<T> {
  /** It was taken hold of. */
  onTaken?: ((which: T) => void) | undefined
  /** It was let go. */
  onLeft?: (() => void) | undefined
}

/** Where the pointer is, where it was when it took hold, and the keys that are held. */
export interface Held {
  clientX: number
  clientY: number
  start: { clientX: number; clientY: number }
  shiftKey: boolean
  ctrlKey: boolean
}

/**
 * A thing that is dragged by itself, so that what lies below it stays: a handle in the picture, a point of a curve.
 * @param onMove where the pointer is in the window, a name that all moves of one drag share, and what `bind` was called with
 * @returns `bind`: gives what an element is bound to; it may be told which of several elements it is
 */
export function useHandle<T = undefined>(onMove: (at: Held, drag: string, which: T) => void, ends: Ends<T> = {}) {
  const name = useRef('')
  const bind = useDrag(
    ({ xy: [clientX, clientY], initial, first, last, movement: [dx, dy], shiftKey, ctrlKey, metaKey, args, event }) => {
      event.stopPropagation()
      const which = args[0] as T
      if (first) {
        name.current = `drag-${++drags}`
        ends.onTaken?.(which)
      }
      // a mere press moves nothing
      if (dx !== 0 || dy !== 0)
        onMove({ clientX, clientY, start: { clientX: initial[0], clientY: initial[1] }, shiftKey, ctrlKey: ctrlKey || metaKey }, name.current, which)
      if (last) ends.onLeft?.()
    },
    { pointer: { keys: false, capture: true }, threshold: 0 },
  )
  return (which?: T) => bind(which) as object
}
