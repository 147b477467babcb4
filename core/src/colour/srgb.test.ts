import { loadKernels } from '../kernels/load-node.ts'
import { linearToSrgb, srgbToLinear, transferTables } from './srgb.ts'

test('sRGB transfer follows IEC 61966-2-1', async () => {
  const { raw } = await loadKernels()
  // IEC 61966-2-1:1999, 5.2: linear part to 0.04045, ends fixed
  expect(srgbToLinear(0, raw.pow)).toBe(0)
  expect(srgbToLinear(1, raw.pow)).toBeCloseTo(1, 12)
  expect(srgbToLinear(0.04045, raw.pow)).toBeCloseTo(0.0031308, 7)
  // 18 % grey is code 117.6 to 118, half code is 21.4 % light (values widely published, e.g. CSS Color 4 sample code)
  expect(srgbToLinear(0.5, raw.pow)).toBeCloseTo(0.21404114, 7)
  expect(linearToSrgb(0.18, raw.pow) * 255).toBeCloseTo(117.6, 1)
  for (let i = 0; i <= 255; i++) expect(linearToSrgb(srgbToLinear(i / 255, raw.pow), raw.pow) * 255).toBeCloseTo(i, 8)
})

test('the tables bring every 8-bit code back to itself', async () => {
  const kernels = await loadKernels()
  const { decode, encode } = transferTables(kernels)
  const d = kernels.f32(decode, 65536)
  const e = kernels.u16(encode, 65536)
  for (let i = 0; i < 65536; i += 257) {
    const back = e[Math.floor(Math.sqrt(d[i]!) * 65535 + 0.5)]!
    expect(Math.round(back / 257)).toBe(i / 257)
  }
})

test('the module’s functions agree with the host’s to the last digits', async () => {
  const { raw } = await loadKernels()
  for (let x = -20; x < 20; x += 0.37) {
    expect(raw.exp(x) / Math.exp(x)).toBeCloseTo(1, 14)
    expect(raw.sin(x)).toBeCloseTo(Math.sin(x), 14)
    expect(raw.cos(x)).toBeCloseTo(Math.cos(x), 14)
    if (x > 0) {
      expect(raw.log(x)).toBeCloseTo(Math.log(x), 14)
      expect(raw.pow(x, 0.37) / x ** 0.37).toBeCloseTo(1, 14)
    }
  }
})
