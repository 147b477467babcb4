// Bilateral filter, true (not separated, no grid): Tomasi & Manduchi, "Bilateral filtering for gray and color images", ICCV 1998.
import { alphasOf, bluesOf, codesOf, greensOf, redsOf, storeFour } from './four'

/**
 * Mean over a disc of radius r, weighted by nearness and by likeness of colour: exp(−|Δcolour|² / 2σ²), Euclidean over straight
 * R, G, B 0…1; clear neighbours count for nothing. src is the w × h output region grown by r on all sides.
 * @param near (2r + 1)² weights by nearness, 0 where a pixel is left out; @param k 1 / 2σ²
 * @rows src dst
 * @overlap 2 * r
 * @scratch (2 * r + 1) * 4 * ((w + 2 * r) * 4 + 48) + (2 * r + 1) * ((2 * r + 1) * 8 + 8)
 */
export function bilateral(src: usize, srcStride: i32, dst: usize, dstStride: i32, w: i32, h: i32, r: i32, near: usize, k: f32, scratch: usize): void {
  const n = 2 * r + 1
  // the pixels of the disc, row by row: how many there are, then how far to the right each lies and its weight
  const taps = scratch
  const tapRow = (<usize>n << 3) + 8
  for (let j = 0; j < n; j++) {
    const list = taps + <usize>j * tapRow
    let count = 0
    for (let i = 0; i < n; i++) {
      const s = load<f32>(near + (<usize>(j * n + i) << 2))
      if (s == 0) continue
      store<i32>(list + (<usize>count << 3), i << 2, 8)
      store<f32>(list + (<usize>count << 3), s, 12)
      count++
    }
    store<i32>(list, count)
  }
  // planes of one row one after the other: R, G, B, A
  const ring = taps + <usize>n * tapRow
  const line = <usize>(w + 2 * r) * 4 + 48
  const one = f32x4.splat(1)
  const zero = f32x4.splat(0)
  // exp(−x) as (1 − x/128)¹²⁸: within 0.004 of it, and seven squarings; colours are kept in that unit
  const unit = f32x4.splat(<f32>Math.sqrt(<f64>k / 128))
  const back = f32x4.splat(<f32>Math.sqrt(128 / <f64>k))
  let lastClear = -1
  for (let y = 0; y < h + 2 * r; y++) {
    const fresh = ring + <usize>(y % n) * (line << 2)
    for (let x = 0; x < w + 2 * r; x += 4) {
      const p = src + (<usize>x << 3)
      const rg = codesOf(v128.load(p), v128.load(p, 16), false)
      const ba = codesOf(v128.load(p), v128.load(p, 16), true)
      const q = fresh + (<usize>x << 2)
      v128.store(q, f32x4.mul(redsOf(rg), unit))
      v128.store(q + line, f32x4.mul(greensOf(rg), unit))
      v128.store(q + line * 2, f32x4.mul(bluesOf(ba), unit))
      const alphas = alphasOf(ba)
      v128.store(q + line * 3, alphas)
      if (v128.any_true(f32x4.lt(alphas, one))) lastClear = y
    }
    src += srcStride
    if (y < 2 * r) continue
    const middle = ring + <usize>((y - r) % n) * (line << 2) + (<usize>r << 2)
    const opaque = lastClear < y - 2 * r
    for (let x = 0; x < w; x += 4) {
      const c = middle + (<usize>x << 2)
      const cr = v128.load(c)
      const cg = v128.load(c + line)
      const cb = v128.load(c + line * 2)
      let sr = zero
      let sg = zero
      let sb = zero
      let sa = zero
      let norm = zero
      for (let j = 0; j < n; j++) {
        const row = ring + <usize>((y - 2 * r + j) % n) * (line << 2) + (<usize>x << 2)
        const list = taps + <usize>j * tapRow + 8
        const end = list + (<usize>load<i32>(list - 8) << 3)
        for (let t = list; t < end; t += 8) {
          const p = row + <usize>load<i32>(t)
          const qr = v128.load(p)
          const qg = v128.load(p + line)
          const qb = v128.load(p + line * 2)
          const dr = f32x4.sub(qr, cr)
          const dg = f32x4.sub(qg, cg)
          const db = f32x4.sub(qb, cb)
          const d = f32x4.add(f32x4.add(f32x4.mul(dr, dr), f32x4.mul(dg, dg)), f32x4.mul(db, db))
          let e = f32x4.pmax(zero, f32x4.sub(one, d))
          e = f32x4.mul(e, e)
          e = f32x4.mul(e, e)
          e = f32x4.mul(e, e)
          e = f32x4.mul(e, e)
          e = f32x4.mul(e, e)
          e = f32x4.mul(e, e)
          e = f32x4.mul(f32x4.mul(e, e), v128.load32_splat(t, 4))
          norm = f32x4.add(norm, e)
          if (!opaque) {
            e = f32x4.mul(e, v128.load(p + line * 3))
            sa = f32x4.add(sa, e)
          }
          sr = f32x4.add(sr, f32x4.mul(e, qr))
          sg = f32x4.add(sg, f32x4.mul(e, qg))
          sb = f32x4.add(sb, f32x4.mul(e, qb))
        }
      }
      if (opaque) sa = norm
      const inverse = f32x4.mul(v128.and(f32x4.div(one, sa), f32x4.gt(sa, zero)), back)
      storeFour(dst + (<usize>x << 3), f32x4.mul(sr, inverse), f32x4.mul(sg, inverse), f32x4.mul(sb, inverse), f32x4.div(sa, norm), w - x)
    }
    dst += dstStride
  }
}
