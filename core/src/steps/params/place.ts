import { z } from 'zod'
import { numbers, type Common, type ParamType } from './type.ts'

/** A point of a picture, in shares of its width and height from the upper left corner. */
export interface Place {
  x: number
  y: number
}
export interface PlaceSpec extends Common<Place> {
  type: 'place'
}

const share = z.number().min(-2).max(3)

export const placeType: ParamType<PlaceSpec, Place> = {
  schema: () => z.strictObject({ x: share, y: share }),
  format: () => 'another place',
  read: (_, text) => {
    const [x, y] = numbers(text)
    return { x, y }
  },
  write: (_, v) => `${v.x},${v.y}`,
  range: () => 'a place x,y in shares of width and height',
  ends: () => [['another', { x: 0.3, y: 0.2 }]],
  dealt: (_, next) => ({ x: next(), y: next() }),
}
