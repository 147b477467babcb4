import { useRef, type PointerEvent } from 'react'

let drags = 0

/** Props for something that is dragged by the pointer: `on` hears places 0…1 in `box`, and the name of the drag. */
export function useDrag(box: () => Element | null, on: (x: number, y: number, gesture: string) => void) {
  const gesture = useRef('')
  return {
    onPointerDown: (e: PointerEvent) => {
      e.stopPropagation()
      e.currentTarget.setPointerCapture(e.pointerId)
      gesture.current = `drag-${++drags}`
    },
    onPointerMove: (e: PointerEvent) => {
      if (!e.buttons || !gesture.current) return
      const r = box()?.getBoundingClientRect()
      if (r) on((e.clientX - r.left) / r.width, (e.clientY - r.top) / r.height, gesture.current)
    },
    onPointerUp: () => {
      gesture.current = ''
    },
  }
}
