import type { Kernels } from '../kernels/kernels.ts'

/** A picture of 16-bit RGBA samples, straight alpha. */
export interface Rgba {
  w: number
  h: number
  v: Uint16Array
}

/** Widens 8-bit samples of 3 or 4 channels. */
export function rgba(bytes: Uint8Array, w: number, h: number, channels: 3 | 4): Rgba {
  const v = new Uint16Array(w * h * 4).fill(65535)
  for (let i = 0; i < w * h; i++) for (let c = 0; c < channels; c++) v[i * 4 + c] = bytes[i * channels + c]! * 257
  return { w, h, v }
}

/**
 * Runs a kernel on a whole picture that is grown by `reach` on all sides with its border repeated.
 * @param bytesOut bytes a pixel of the result
 */
export function withKernel<T>(
  kernels: Kernels,
  p: Rgba,
  reach: number,
  size: { w: number; h: number; bytes: number },
  run: (src: number, srcStride: number, dst: number, dstStride: number) => void,
  read: (dst: number) => T,
): T {
  const { w, h } = p
  const [gw, gh] = [w + 2 * reach, h + 2 * reach]
  return kernels.scratch(gw * gh * 8, (src) =>
    kernels.scratch(size.w * size.h * size.bytes + 64, (dst) => {
      for (let y = 0; y < h; y++) kernels.u16(src + ((y + reach) * gw + reach) * 8, w * 4).set(p.v.subarray(y * w * 4, (y + 1) * w * 4))
      if (reach) kernels.raw.replicateEdges(src, gw * 8, gw, gh, reach, reach, reach + w, reach + h)
      run(src, gw * 8, dst, size.w * size.bytes)
      return read(dst)
    }),
  )
}

/** As withKernel, for kernels whose result is a picture of the same size. */
export function picturedBy(
  kernels: Kernels,
  p: Rgba,
  reach: number,
  run: (src: number, srcStride: number, dst: number, dstStride: number) => void,
  w = p.w,
  h = p.h,
): Rgba {
  return withKernel(kernels, p, reach, { w, h, bytes: 8 }, run, (dst) => ({ w, h, v: kernels.u16(dst, w * h * 4).slice() }))
}

/** The largest difference of two pictures' premultiplied samples, in 1/65535. */
export function worst(a: Rgba, b: { v: ArrayLike<number> }): number {
  let far = 0
  for (let i = 0; i < a.v.length; i++) {
    const alpha = i - (i % 4) + 3
    const p = i === alpha ? a.v[i]! : (a.v[i]! * a.v[alpha]!) / 65535
    const q = i === alpha ? b.v[i]! : (b.v[i]! * b.v[alpha]!) / 65535
    far = Math.max(far, Math.abs(p - q))
  }
  return far
}
