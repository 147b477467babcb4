import { useGesture, useWheel } from '@use-gesture/react'
import { useRef, type RefObject } from 'react'

type Point = { x: number; y: number }
type Client = { clientX: number; clientY: number }

interface Options {
  easel: RefObject<HTMLElement | null>
  /** Where a point of the window lies on the view's plane, device pixels. */
  point: (at: Client) => Point
  /** Whether one pointer moves the view: not while it paints or picks. */
  pans: boolean
  /** Whether a touch is the palm's and moves nothing. */
  palm: (e: Event) => boolean
  /** The view moves, device pixels of its plane. */
  onPan: (dx: number, dy: number) => void
  /** It is enlarged by a factor about a point of its plane. */
  onZoom: (factor: number, about: Point) => void
  /** It is turned by degrees clockwise about a point of the window. */
  onTurn: (by: number, about: Client) => void
  /** Two fingers have left it. */
  onLeft: () => void
}

/** What the fingers held when the view last followed them. */
interface Hold {
  at: Client
  distance: number
  angle: number
}
/** Angles that the fingers' tremor makes, degrees. */
const TREMOR = 0.05

/** Half as large, or twice, by so many pixels of the wheel; with Ctrl, as a touchpad's pinch is told, by fewer. */
const OCTAVE = { wheel: 320, pinch: 120 }

/** One pointer drags the view, two move, pinch and turn it, the wheel zooms where it points. @returns what the element of the view is bound to */
export function useViewGestures(options: Options) {
  const now = useRef(options)
  now.current = options
  useWheel(
    ({ event, delta: [, dy], active }) => {
      event.preventDefault()
      if (!active || dy === 0) return
      now.current.onZoom(2 ** (-dy / (event.ctrlKey ? OCTAVE.pinch : OCTAVE.wheel)), now.current.point(event))
    },
    // the page must not scroll, nor the browser zoom it
    { target: options.easel, eventOptions: { passive: false } },
  )
  const bind = useGesture(
    {
      onDrag: ({ xy: [clientX, clientY], memo, first, pinching, event }): Client | undefined => {
        const { pans, palm, point, onPan } = now.current
        const at = { clientX, clientY }
        if (first || pinching || !memo || !pans || palm(event)) return at
        const [was, is] = [point(memo as Client), point(at)]
        onPan(is.x - was.x, is.y - was.y)
        return at
      },
      onPinch: ({ origin: [clientX, clientY], da: [distance, angle], memo, first, event }): Hold | undefined => {
        // the wheel is a gesture of its own
        if (event.type === 'wheel' || now.current.palm(event)) return undefined
        const is: Hold = { at: { clientX, clientY }, distance, angle }
        const was = memo as Hold | undefined
        if (first || !was) return is
        const { point, onPan, onZoom, onTurn } = now.current
        const [before, after] = [point(was.at), point(is.at)]
        onPan(after.x - before.x, after.y - before.y)
        if (was.distance > 0 && distance > 0) onZoom(distance / was.distance, after)
        const by = ((((angle - was.angle) % 360) + 540) % 360) - 180
        if (Math.abs(by) > TREMOR) onTurn(by, is.at)
        return Math.abs(by) > TREMOR ? is : { ...is, angle: was.angle }
      },
      onPinchEnd: ({ event }) => {
        if (event.type !== 'wheel') now.current.onLeft()
      },
    },
    { drag: { pointer: { keys: false, buttons: [1, 2, 4], capture: true }, threshold: 0 } },
  )
  const { onWheel: _, ...handlers } = bind() as Record<string, (e: unknown) => void>
  return handlers
}
