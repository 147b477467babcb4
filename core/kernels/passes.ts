// One row of a symmetric convolution along x, and one along y, over pixels of four floats. Sums are taken in a fixed order
// a pixel, so no result depends on where a tile begins.

/** dst[x] = Σ weights[|k|] · src[x + k + r], for w pixels of four floats. Four pixels share a walk over the weights. */
export function passRow(src: usize, dst: usize, w: i32, r: i32, weights: usize): void {
  const w0 = v128.load32_splat(weights)
  const end = <usize>w << 4
  const centre = src + (<usize>r << 4)
  let x: usize = 0
  for (; x + 64 <= end; x += 64) {
    const c = centre + x
    let s0 = f32x4.mul(v128.load(c), w0)
    let s1 = f32x4.mul(v128.load(c, 16), w0)
    let s2 = f32x4.mul(v128.load(c, 32), w0)
    let s3 = f32x4.mul(v128.load(c, 48), w0)
    for (let k = 1; k <= r; k++) {
      const a = c - (<usize>k << 4)
      const b = c + (<usize>k << 4)
      const wk = v128.load32_splat(weights + (<usize>k << 2))
      s0 = f32x4.add(s0, f32x4.mul(f32x4.add(v128.load(a), v128.load(b)), wk))
      s1 = f32x4.add(s1, f32x4.mul(f32x4.add(v128.load(a, 16), v128.load(b, 16)), wk))
      s2 = f32x4.add(s2, f32x4.mul(f32x4.add(v128.load(a, 32), v128.load(b, 32)), wk))
      s3 = f32x4.add(s3, f32x4.mul(f32x4.add(v128.load(a, 48), v128.load(b, 48)), wk))
    }
    v128.store(dst + x, s0)
    v128.store(dst + x, s1, 16)
    v128.store(dst + x, s2, 32)
    v128.store(dst + x, s3, 48)
  }
  for (; x < end; x += 16) {
    const c = centre + x
    let sum = f32x4.mul(v128.load(c), w0)
    for (let k = 1; k <= r; k++) {
      const o = <usize>k << 4
      sum = f32x4.add(sum, f32x4.mul(f32x4.add(v128.load(c - o), v128.load(c + o)), v128.load32_splat(weights + (<usize>k << 2))))
    }
    v128.store(dst + x, sum)
  }
}

/** dst = Σ weights[|k|] · rows[k + r], rows given by 2r + 1 pointers. Four pixels share a walk over the rows. */
export function passColumn(rows: usize, dst: usize, w: i32, r: i32, weights: usize): void {
  const w0 = v128.load32_splat(weights)
  const middle = rows + (<usize>r << 2)
  let x: usize = 0
  const end = <usize>w << 4
  for (; x + 64 <= end; x += 64) {
    const c = <usize>load<u32>(middle) + x
    let s0 = f32x4.mul(v128.load(c), w0)
    let s1 = f32x4.mul(v128.load(c, 16), w0)
    let s2 = f32x4.mul(v128.load(c, 32), w0)
    let s3 = f32x4.mul(v128.load(c, 48), w0)
    for (let k = 1; k <= r; k++) {
      const o = <usize>k << 2
      const a = <usize>load<u32>(middle - o) + x
      const b = <usize>load<u32>(middle + o) + x
      const wk = v128.load32_splat(weights + o)
      s0 = f32x4.add(s0, f32x4.mul(f32x4.add(v128.load(a), v128.load(b)), wk))
      s1 = f32x4.add(s1, f32x4.mul(f32x4.add(v128.load(a, 16), v128.load(b, 16)), wk))
      s2 = f32x4.add(s2, f32x4.mul(f32x4.add(v128.load(a, 32), v128.load(b, 32)), wk))
      s3 = f32x4.add(s3, f32x4.mul(f32x4.add(v128.load(a, 48), v128.load(b, 48)), wk))
    }
    v128.store(dst + x, s0)
    v128.store(dst + x, s1, 16)
    v128.store(dst + x, s2, 32)
    v128.store(dst + x, s3, 48)
  }
  for (; x < end; x += 16) {
    let sum = f32x4.mul(v128.load(<usize>load<u32>(middle) + x), w0)
    for (let k = 1; k <= r; k++) {
      const o = <usize>k << 2
      const pair = f32x4.add(v128.load(<usize>load<u32>(middle - o) + x), v128.load(<usize>load<u32>(middle + o) + x))
      sum = f32x4.add(sum, f32x4.mul(pair, v128.load32_splat(weights + o)))
    }
    v128.store(dst + x, sum)
  }
}
