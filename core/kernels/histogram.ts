/**
 * Adds pixels to a histogram of 256 bins each for R, G, B and lightness (BT.709 luma): 1024 counts of 32 bits. A code v falls
 * into bin round(v / 257). Clear pixels do not count.
 */
export function histogram(src: usize, srcStride: i32, w: i32, h: i32, counts: usize): void {
  for (let y = 0; y < h; y++) {
    for (let p = src, end = src + (<usize>w << 3); p < end; p += 8) {
      const px = load<u64>(p)
      if (px >> 48 == 0) continue
      const r = <u32>(px & 0xffff)
      const g = <u32>((px >> 16) & 0xffff)
      const b = <u32>((px >> 32) & 0xffff)
      // weights of 16 bits that sum to 65536
      const l = (r * 13933 + g * 46871 + b * 4732) >> 16
      count(counts, r)
      count(counts + 1024, g)
      count(counts + 2048, b)
      count(counts + 3072, l)
    }
    src += srcStride
  }
}

// @ts-ignore: decorator
@inline
function count(counts: usize, v: u32): void {
  const at = counts + (<usize>((v * 255 + 32895) >> 16) << 2)
  store<u32>(at, load<u32>(at) + 1)
}
