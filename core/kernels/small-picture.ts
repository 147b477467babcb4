// Small pictures that plans are kept in, looked at between their pixels.
import { lerp } from './noise'

/** Four numbers of a small picture at a place, between the middles of its pixels; what lies outside is as its rim. `row` bytes from one row to the next. */
// @ts-ignore: decorator
@inline
export function fourBetween(plane: usize, row: i32, pw: i32, ph: i32, u: f32, v: f32): v128 {
  const cu = max<f32>(0, min<f32>(<f32>(pw - 1), u))
  const cv = max<f32>(0, min<f32>(<f32>(ph - 1), v))
  const ix = min<i32>(max<i32>(0, pw - 2), <i32>cu)
  const iy = min<i32>(max<i32>(0, ph - 2), <i32>cv)
  const fx = f32x4.splat(cu - <f32>ix)
  const right: usize = pw > 1 ? 16 : 0
  const down: usize = ph > 1 ? <usize>row : 0
  const p = plane + <usize>iy * <usize>row + (<usize>ix << 4)
  return lerp(lerp(v128.load(p), v128.load(p + right), fx), lerp(v128.load(p + down), v128.load(p + down + right), fx), f32x4.splat(cv - <f32>iy))
}
