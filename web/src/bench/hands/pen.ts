import { FULL_PRESSURE, SAMPLE_UNIT, type Length } from '@nimble-quill/core'

/** What of a pointer event a stroke goes by. */
export interface PenEvent {
  clientX: number
  clientY: number
  timeStamp: number
  pressure: number
  tiltX: number
  tiltY: number
  pointerType: string
}

/** The breadth of a brush in artwork pixels. */
export const breadthIn = ({ value, unit }: { value: number; unit: Length['unit'] }, ppi: number): number =>
  Math.max(1, unit === 'mm' ? (value / 25.4) * ppi : value)

/** Lines by hand with a mouse grow and fade over so long, milliseconds: it has no pressure of its own. */
const SWELL = 120

/**
 * The samples of pointer events, six whole numbers each.
 * @param place where an event is, artwork pixels
 * @param begun when the stroke began, by the events' clock
 */
export function samplesFrom(events: readonly PenEvent[], place: (e: PenEvent) => { x: number; y: number }, begun: number): number[] {
  const numbers: number[] = []
  for (const e of events) {
    const { x, y } = place(e)
    const t = Math.max(0, Math.round(e.timeStamp - begun))
    const pressure =
      e.pointerType === 'pen'
        ? e.pressure
        : e.pointerType === 'mouse'
          ? Math.min(1, 0.55 + (0.45 * t) / SWELL)
          : e.pressure > 0 && e.pressure !== 0.5
            ? e.pressure
            : 1
    numbers.push(
      Math.round(x * SAMPLE_UNIT),
      Math.round(y * SAMPLE_UNIT),
      t,
      Math.round(Math.min(1, Math.max(0, pressure)) * FULL_PRESSURE),
      Math.round(e.tiltX || 0),
      Math.round(e.tiltY || 0),
    )
  }
  return numbers
}
