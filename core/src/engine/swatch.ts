import { CLEAR, emptyPlane } from '../planes/plane.ts'
import type { Sized } from '../strokes/dabs.ts'
import type { Engine } from './engine.ts'
import { Painter } from './painter.ts'
import { fresh } from './pixels.ts'

/** Pen samples of a swatch. */
const SAMPLES = 40

/**
 * A stroke of a brush as it would lie: black and clear, swelling and thinning as a pen does. RGBA8.
 * @param brush its breadth in pixels of the swatch
 */
export async function strokeSwatch(engine: Engine, brush: Sized, w: number, h: number): Promise<ArrayBuffer> {
  const { kernels, planes } = engine
  const painter = new Painter(kernels, planes, {
    plane: emptyPlane(4),
    blank: CLEAR,
    brush,
    symmetry: { type: 'none' },
    laying: { type: 'paint', colour: 0n },
    within: { x: 0, y: 0, w, h },
  })
  const pic = fresh(kernels, { x: 0, y: 0, w, h })
  try {
    const margin = Math.min(w / 4, brush.breadth * 0.6)
    const samples = Array.from({ length: SAMPLES + 1 }, (_, i) => {
      const t = i / SAMPLES
      // a slow wave as a cubic, so that no function of the host takes part
      const wave = 4 * t * (1 - t) * (2 * t - 1) * 1.8
      return {
        x: Math.round((margin + t * (w - 2 * margin)) * 64),
        y: Math.round((h / 2 + wave * (h / 2 - brush.breadth / 2)) * 64),
        t: i * 8,
        p: Math.round((0.25 + 0.75 * Math.min(1, 4 * t * (1 - t) + 0.1)) * 1023),
        tiltX: 0,
        tiltY: 0,
      }
    })
    await painter.add(samples)
    await painter.finish()
    await planes.read({ plane: painter.plane, blank: CLEAR }, 0, pic, {
      signal: { cancelled: false },
      quick: false,
      alone: false,
      frozen: false,
      lends: false,
      pause: async () => undefined,
    })
    return kernels.scratch(w * h * 4, (out) => {
      kernels.raw.to8(pic.ptr, pic.stride, out, w * 4, w, h)
      return kernels.bytes(out, w * h * 4).slice().buffer
    })
  } finally {
    pic.done()
    painter.cancel()
  }
}
