// How high a place of a paper stands among what lies round about it.
// The normal distribution function by Bowling, Khasawneh, Kaewkuekool and Cho, "A logistic approximation to the cumulative normal distribution",
// J. Industrial Engineering and Management 2 (2009): 1 / (1 + e^-(0.07056 z³ + 1.5976 z)), within 0.00014; skew taken out before by the first term of
// Cornish and Fisher, "Moments and cumulants in the specification of distributions", Revue de l'Institut International de Statistique 5 (1938).
import { exp } from './maths'

/**
 * Heights (in the red channel) become shares of the ground round about, (2r + 1) × (2r + 1) pixels, that stands higher than they do: red, 0 at the peaks, by
 * their mean, deviation and skew; green says how much of a surface there is: none where it is flat. Sums are whole numbers, so it does
 * not matter where a row began.
 * src is the w × h output region grown by r on all sides, r 1…180. @param flat the deviation, in codes, that is half of a surface
 * @rows src dst
 * @overlap 2 * r
 * @scratch (w + 2 * r) * 24
 */
export function evenHeights(src: usize, srcStride: i32, dst: usize, dstStride: i32, w: i32, h: i32, r: i32, flat: f64, scratch: usize): void {
  const n = 2 * r + 1
  const columns = w + 2 * r
  const squares = scratch + (<usize>columns << 3)
  const cubes = squares + (<usize>columns << 3)
  const count = <f64>n * <f64>n
  memory.fill(scratch, 0, <usize>columns * 24)
  for (let y = 0; y < h; y++) {
    const last = y + 2 * r
    for (let row = y == 0 ? 0 : last; row <= last; row++) {
      const p = src + <usize>row * <usize>srcStride
      for (let x: usize = 0; x < <usize>columns; x++) {
        const v = <i64>load<u16>(p + (x << 3)) - 32768
        const at = x << 3
        store<i64>(scratch + at, load<i64>(scratch + at) + v)
        store<i64>(squares + at, load<i64>(squares + at) + v * v)
        store<i64>(cubes + at, load<i64>(cubes + at) + v * v * v)
      }
    }
    let sum: i64 = 0
    let square: i64 = 0
    let cube: i64 = 0
    for (let x: usize = 0; x < <usize>(2 * r); x++) {
      sum += load<i64>(scratch + (x << 3))
      square += load<i64>(squares + (x << 3))
      cube += load<i64>(cubes + (x << 3))
    }
    const middle = src + <usize>(y + r) * <usize>srcStride + (<usize>r << 3)
    for (let x: usize = 0; x < <usize>w; x++) {
      const enters = (x + <usize>(2 * r)) << 3
      sum += load<i64>(scratch + enters)
      square += load<i64>(squares + enters)
      cube += load<i64>(cubes + enters)
      const mean = <f64>sum / count
      const variance = max(<f64>square / count - mean * mean, 0)
      const deviation = sqrt(variance + 1e-6)
      const third = <f64>cube / count - mean * (3 * variance + mean * mean)
      const skew = max(min(third / ((variance + 1e-6) * deviation), 1), -1)
      // beyond the turn of the parabola nothing is ranked back
      const turn = 3 / (abs(skew) + 1e-9)
      const d = max(min((<f64>(<i32>load<u16>(middle + (x << 3)) - 32768) - mean) / deviation, 5), -5)
      const held = skew > 0 ? min(d, turn) : max(d, -turn)
      const z = held - (skew * (held * held - 1)) / 6
      const higher = 1 / (1 + exp(z * (0.07056 * z * z + 1.5976)))
      const p = dst + (x << 3)
      store<u16>(p, <u16>(higher * 65535 + 0.5))
      store<u16>(p, <u16>((variance / (variance + flat * flat)) * 65535 + 0.5), 2)
      store<u32>(p, 0xffff0000, 4)
      sum -= load<i64>(scratch + (x << 3))
      square -= load<i64>(squares + (x << 3))
      cube -= load<i64>(cubes + (x << 3))
    }
    const old = src + <usize>y * <usize>srcStride
    for (let x: usize = 0; x < <usize>columns; x++) {
      const v = <i64>load<u16>(old + (x << 3)) - 32768
      const at = x << 3
      store<i64>(scratch + at, load<i64>(scratch + at) - v)
      store<i64>(squares + at, load<i64>(squares + at) - v * v)
      store<i64>(cubes + at, load<i64>(cubes + at) - v * v * v)
    }
    dst += dstStride
  }
}
