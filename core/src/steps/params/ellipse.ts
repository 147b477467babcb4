import { z } from 'zod'
import { numbers, type Common, type ParamType } from './type.ts'

/** An upright ellipse on a picture: its middle and half axes, in shares of the picture's width and height. */
export interface Ellipse {
  x: number
  y: number
  rx: number
  ry: number
}
export interface EllipseSpec extends Common<Ellipse> {
  type: 'ellipse'
}

/** Half axes, of the picture's width and height. */
export const HALF_AXIS = { min: 0.02, max: 2 }
const place = z.number().min(-2).max(3)
const axis = z.number().min(HALF_AXIS.min).max(HALF_AXIS.max)
const shown = (v: number) => Math.round(v * 100)

export const ellipseType: ParamType<EllipseSpec, Ellipse> = {
  schema: () => z.strictObject({ x: place, y: place, rx: axis, ry: axis }),
  format: (_, { rx, ry }) => `${shown(2 * rx)} × ${shown(2 * ry)} %`,
  read: (_, text) => {
    const [x, y, rx, ry] = numbers(text)
    return { x, y, rx, ry }
  },
  write: (_, v) => `${v.x},${v.y},${v.rx},${v.ry}`,
  range: () => 'an ellipse x,y,rx,ry in shares of width and height',
  ends: () => [
    ['small', { x: 0.3, y: 0.2, rx: 0.1, ry: 0.05 }],
    ['wide', { x: 0.5, y: 0.5, rx: 0.9, ry: 0.4 }],
  ],
  dealt: (_, next) => ({ x: next(), y: next(), rx: 0.05 + next(), ry: 0.05 + next() }),
}
