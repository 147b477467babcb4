import type { Region } from '../../base/region.ts'
import type { Kernels } from '../../kernels/kernels.ts'
import { MarkList } from '../../paths/marks.ts'
import { chance } from '../line/strokes.ts'

// taken once: loops over planes look nothing up
const { abs, ceil, floor, max, min, sqrt } = Math

/** How strokes of one colour are laid by a hand that goes one way, row beside row. Lengths are full-size pixels. */
export interface Rows {
  /** The way the hand goes, degrees from level, upwards to the right. */
  hand: number
  spacing: number
  breadth: number
  /** How much broader than its lightest touch a stroke is where it is pressed hard, of its breadth. */
  swell: number
  length: number
  /** 0 ruled … 1 free. */
  wobble: number
  seed: number
  /** How hard it presses at a place of the plan, 0 nothing … 1; below 0 where others than these strokes are laid: they end there without thinning out. */
  pressed: (x: number, y: number) => number
  /** Whether a stroke that comes from one place may go on to another a little further. */
  passes: (x: number, y: number, nx: number, ny: number) => boolean
  /** Where less than this is wanted nothing is laid. */
  least: number
  /** Share of a stroke over which its ends run out, where nothing but the hand ends them. */
  taper: number
  /** How far rows go on beyond the picture, so that none thins out at its rim. */
  beyond: number
}

/**
 * Lays strokes side by side over the whole extent, in rows of one direction that sway a little, each row broken into strokes as long as a hand makes them; they press as
 * hard as is asked where they go, lift where little is wanted, and end at what they may not pass.
 * @param w,h of the plan that `pressed` and `passes` are asked in; its pixel (0, 0) is the extent's corner
 */
export async function layRows(
  list: MarkList,
  rows: Rows,
  extent: Region,
  w: number,
  h: number,
  { cos, sin }: Pick<Kernels['raw'], 'cos' | 'sin'>,
  pause: () => Promise<void>,
): Promise<void> {
  const angle = (-rows.hand * 3.141592653589793) / 180
  const [c, s] = [cos(angle), sin(angle)]
  const scale = max(extent.w / w, extent.h / h)
  const { spacing } = rows
  const [mx, my] = [extent.w / 2, extent.h / 2]
  const reach = sqrt(mx * mx + my * my)
  const count = ceil(reach / spacing)
  const step = max(scale * 1.2, min(rows.length / 6, spacing * 1.5))
  const steps = ceil(reach / step)
  const swing = 0.5 * rows.wobble * spacing
  // all rows bow together, as an arm does
  const bow = 0.012 * rows.wobble * reach
  const often = 3.1 / reach
  const xs = new Float64Array(2 * steps + 4)
  const ys = new Float64Array(2 * steps + 4)
  const ps = new Float32Array(2 * steps + 4)
  /** Which steps of a row can lie in the extent at all, however it sways; of most rows the ends do not. */
  const stepsInside = (row: number, begin: number): [first: number, last: number] => {
    const [v, sway] = [row * spacing, swing + bow + rows.beyond]
    let [low, high] = [-reach, reach]
    for (const [to, middle, across, size] of [
      [c, mx, -v * s, extent.w],
      [s, my, v * c, extent.h],
    ] as const) {
      if (abs(to) < 1e-6) continue
      const a = (-sway - middle - across) / to
      const b = (size + sway - middle - across) / to
      low = max(low, min(a, b))
      high = min(high, max(a, b))
    }
    return [max(-steps, floor(low / step - begin) - 1), min(steps, ceil(high / step - begin) + 1)]
  }
  for (let j = -count; j <= count; j++) {
    if ((j & 31) === 0) await pause()
    const luck = (i: number, k: number) => chance(i, j, rows.seed + k * 7919)
    const shift = (luck(0, 1) - 0.5) * 0.35 * (0.3 + rows.wobble)
    const wave = 6.2831853 / (rows.length * (0.8 + 0.9 * luck(0, 2)))
    const phase = 6.2831853 * luck(0, 3)
    /** Where a row is at a way along it. */
    const place = (u: number): void => {
      const v = (j + shift) * spacing + swing * sin(phase + wave * u) + bow * sin(often * u + 0.4 * often * j * spacing)
      px = mx + u * c - v * s
      py = my + u * s + v * c
    }
    let [px, py] = [0, 0]
    // the stroke that is being drawn, and how long it may still grow
    let n = 0
    let own = 0
    let room = 0
    let lifted = true
    /** @param freely by the hand, not by something that it may not pass */
    const end = (freely: boolean) => {
      if (n > 1) {
        const press = 1 + 0.36 * (luck(own, 5) - 0.5)
        const early = luck(own, 6) < 0.5 ? 0.6 : 1.4
        const tail = 2 - early
        for (let i = 0; i < n; i++) {
          const t = i / (n - 1)
          const ends = min(1, lifted ? (t + 0.02) / (rows.taper * early) : 1, freely ? (1.02 - t) / (rows.taper * tail) : 1)
          const pressed = min(1, ps[i]! * press)
          list.place(extent.x + xs[i]!, extent.y + ys[i]!, 0.5 * rows.breadth * (0.72 + rows.swell * pressed) * (0.6 + 0.4 * ends), pressed * ends)
        }
        list.end()
      }
      n = 0
      lifted = freely
    }
    let [ox, oy] = [0, 0]
    const [first, last] = stepsInside(j + shift, luck(0, 4))
    for (let i = first; i <= last; i++) {
      const u = (i + luck(0, 4)) * step
      place(u)
      if (px < -rows.beyond || py < -rows.beyond || px > extent.w + rows.beyond || py > extent.h + rows.beyond) {
        end(true)
        continue
      }
      const [x, y] = [px / scale - 0.5, py / scale - 0.5]
      const pressed = rows.pressed(x, y)
      if (pressed < 0) {
        if (n > 0) {
          xs[n] = px
          ys[n] = py
          ps[n] = ps[n - 1]!
          n++
        }
        end(false)
        continue
      }
      if (pressed < rows.least) {
        end(true)
        continue
      }
      if (n > 0 && !rows.passes(ox, oy, x, y)) {
        // up to what ends it, and on from there
        const [hx, hy] = [(xs[n - 1]! + px) / 2, (ys[n - 1]! + py) / 2]
        xs[n] = hx
        ys[n] = hy
        ps[n] = ps[n - 1]!
        n++
        end(false)
        own = i
        room = rows.length * (0.5 + luck(i, 7))
        xs[0] = hx
        ys[0] = hy
        ps[0] = pressed
        n = 1
      }
      if (n === 0) {
        own = i
        room = rows.length * (0.5 + luck(i, 7))
      }
      xs[n] = px
      ys[n] = py
      ps[n] = pressed
      n++
      ox = x
      oy = y
      if (n * step > room) {
        // the next stroke begins where this one begins to thin out, so that no row of ends shows
        const from = max(0, floor(n - 1 - rows.taper * n))
        const over = n - from
        end(true)
        own = i
        room = rows.length * (0.5 + luck(i, 7))
        xs.copyWithin(0, from, from + over)
        ys.copyWithin(0, from, from + over)
        ps.copyWithin(0, from, from + over)
        n = over
      }
    }
    end(true)
  }
}
