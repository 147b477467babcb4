import { useHandle } from '../../../parts/use-handle.ts'

/**
 * Binds what is dragged by the pointer within a box.
 * @param on hears places 0…1 in the box, the name of the drag, and which of several it is
 * @param onTaken one was taken hold of
 */
export function useDragIn<T = undefined>(
  box: () => Element | null,
  on: (x: number, y: number, gesture: string, which: T) => void,
  onTaken?: (which: T) => void,
) {
  return useHandle<T>(
    (e, gesture, which) => {
      const r = box()?.getBoundingClientRect()
      if (r) on((e.clientX - r.left) / r.width, (e.clientY - r.top) / r.height, gesture, which)
    },
    { onTaken },
  )
}
