/** A grey picture, 0…255. */
export interface Grey {
  w: number
  h: number
  v: Float64Array
}

const SIDE = 8
const C1 = (0.01 * 255) ** 2
const C2 = (0.03 * 255) ** 2

/**
 * Structural similarity of two pictures, mean over the 8 × 8 blocks in which at least one has structure (a deviation of 4 or
 * more); 1 where none has. Wang, Bovik, Sheikh & Simoncelli, "Image Quality Assessment: From Error Visibility to Structural
 * Similarity", IEEE Trans. Image Processing 13 (2004), equation 13, on blocks.
 */
export function ssim(a: Grey, b: Grey): number {
  let sum = 0
  let count = 0
  eachBlock(a, b, (ma, mb, va, vb, cov) => {
    if (Math.max(va, vb) < 16) return
    sum += ((2 * ma * mb + C1) * (2 * cov + C2)) / ((ma * ma + mb * mb + C1) * (va + vb + C2))
    count++
  })
  return count ? sum / count : 1
}

/** The mean and the largest difference of 8 × 8 block means, 0…1 of full scale. */
export function blockMeans(a: Grey, b: Grey): { mean: number; worst: number } {
  let sum = 0
  let worst = 0
  let count = 0
  eachBlock(a, b, (ma, mb) => {
    const d = Math.abs(ma - mb) / 255
    sum += d
    worst = Math.max(worst, d)
    count++
  })
  return { mean: count ? sum / count : 0, worst }
}

function eachBlock(a: Grey, b: Grey, see: (ma: number, mb: number, va: number, vb: number, cov: number) => void): void {
  for (let y = 0; y + SIDE <= a.h; y += SIDE) {
    for (let x = 0; x + SIDE <= a.w; x += SIDE) {
      let [sa, sb, saa, sbb, sab] = [0, 0, 0, 0, 0]
      for (let j = 0; j < SIDE; j++) {
        for (let i = 0; i < SIDE; i++) {
          const p = a.v[(y + j) * a.w + x + i]!
          const q = b.v[(y + j) * b.w + x + i]!
          sa += p
          sb += q
          saa += p * p
          sbb += q * q
          sab += p * q
        }
      }
      const n = SIDE * SIDE
      const [ma, mb] = [sa / n, sb / n]
      see(ma, mb, saa / n - ma * ma, sbb / n - mb * mb, sab / n - ma * mb)
    }
  }
}
