// Bilateral filter, true (not separated, no grid): Tomasi & Manduchi, "Bilateral filtering for gray and color images", ICCV 1998.
import { alphasOf, bluesOf, codesOf, greensOf, redsOf, storeFour } from './four'

/**
 * Mean over a disc of radius r, weighted by nearness and by likeness of colour: exp(−|Δcolour|² / 2σ²), Euclidean over straight
 * R, G, B 0…1; clear neighbours count for nothing. src is the w × h output region grown by r on all sides.
 * @param near (2r + 1)² weights by nearness, 0 outside the disc; @param k 1 / 2σ²
 * @rows src dst
 * @overlap 2 * r
 * @scratch (2 * r + 1) * 4 * ((w + 2 * r) * 4 + 48)
 */
export function bilateral(src: usize, srcStride: i32, dst: usize, dstStride: i32, w: i32, h: i32, r: i32, near: usize, k: f32, scratch: usize): void {
  const n = 2 * r + 1
  // planes of one row one after the other: R, G, B, A
  const line = <usize>(w + 2 * r) * 4 + 48
  const one = f32x4.splat(1)
  const zero = f32x4.splat(0)
  // exp(−x) as (1 − x/128)¹²⁸: within 0.004 of it, and seven squarings
  const kk = f32x4.splat(k / 128)
  for (let y = 0; y < h + 2 * r; y++) {
    const fresh = scratch + <usize>(y % n) * (line << 2)
    for (let x = 0; x < w + 2 * r; x += 4) {
      const p = src + (<usize>x << 3)
      const rg = codesOf(v128.load(p), v128.load(p, 16), false)
      const ba = codesOf(v128.load(p), v128.load(p, 16), true)
      const q = fresh + (<usize>x << 2)
      v128.store(q, redsOf(rg))
      v128.store(q + line, greensOf(rg))
      v128.store(q + line * 2, bluesOf(ba))
      v128.store(q + line * 3, alphasOf(ba))
    }
    src += srcStride
    if (y < 2 * r) continue
    const middle = scratch + <usize>((y - r) % n) * (line << 2) + (<usize>r << 2)
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
        const row = scratch + <usize>((y - 2 * r + j) % n) * (line << 2) + (<usize>x << 2)
        const weights = near + (<usize>(j * n) << 2)
        for (let i = 0; i < n; i++) {
          const o = <usize>i << 2
          const s = load<f32>(weights + o)
          if (s == 0) continue
          const p = row + o
          const qr = v128.load(p)
          const qg = v128.load(p + line)
          const qb = v128.load(p + line * 2)
          const dr = f32x4.sub(qr, cr)
          const dg = f32x4.sub(qg, cg)
          const db = f32x4.sub(qb, cb)
          const d = f32x4.add(f32x4.add(f32x4.mul(dr, dr), f32x4.mul(dg, dg)), f32x4.mul(db, db))
          let e = f32x4.pmax(zero, f32x4.sub(one, f32x4.mul(d, kk)))
          e = f32x4.mul(e, e)
          e = f32x4.mul(e, e)
          e = f32x4.mul(e, e)
          e = f32x4.mul(e, e)
          e = f32x4.mul(e, e)
          e = f32x4.mul(e, e)
          e = f32x4.mul(f32x4.mul(e, e), f32x4.splat(s))
          norm = f32x4.add(norm, e)
          e = f32x4.mul(e, v128.load(p + line * 3))
          sa = f32x4.add(sa, e)
          sr = f32x4.add(sr, f32x4.mul(e, qr))
          sg = f32x4.add(sg, f32x4.mul(e, qg))
          sb = f32x4.add(sb, f32x4.mul(e, qb))
        }
      }
      const inverse = v128.and(f32x4.div(one, sa), f32x4.gt(sa, zero))
      storeFour(dst + (<usize>x << 3), f32x4.mul(sr, inverse), f32x4.mul(sg, inverse), f32x4.mul(sb, inverse), f32x4.div(sa, norm), w - x)
    }
    dst += dstStride
  }
}
