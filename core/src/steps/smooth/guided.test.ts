import sharp from 'sharp'
import { join } from 'node:path'
import { edgePictures, premultipliedOf, reader, straightOf } from '../../testing/edge-pictures.ts'
import { rgba, worst, type Rgba } from '../../testing/kernel-run.ts'
import type { Kernels } from '../../kernels/kernels.ts'
import { loadKernels } from '../../kernels/load-node.ts'
import { guidedInto, guidedNeeds, guidedPlan } from './guided.ts'

let kernels: Kernels
beforeAll(async () => {
  kernels = await loadKernels()
})

function guided(p: Rgba, radius: number, eps: number): Rgba {
  const region = { x: 0, y: 0, w: p.w, h: p.h }
  const need = guidedNeeds(region, radius)
  return kernels.scratch(need.w * need.h * 8, (src) =>
    kernels.scratch(p.w * p.h * 8, (dst) => {
      for (let y = 0; y < p.h; y++) kernels.u16(src + ((y - need.y) * need.w - need.x) * 8, p.w * 4).set(p.v.subarray(y * p.w * 4, (y + 1) * p.w * 4))
      kernels.raw.replicateEdges(src, need.w * 8, need.w, need.h, -need.x, -need.y, p.w - need.x, p.h - need.y)
      guidedInto(kernels, { ptr: src, stride: need.w * 8, region: need }, { ptr: dst, stride: p.w * 8, region }, radius, eps)
      return { w: p.w, h: p.h, v: kernels.u16(dst, p.w * p.h * 4).slice() }
    }),
  )
}

/** He, Sun & Tang 2013, equations 5, 6 and 8, in float64, borders repeated; the guide is BT.709 luma, everything premultiplied. */
function definition(p: Rgba, r: number, eps: number): Float64Array {
  const { w, h } = p
  const pre = premultipliedOf(p)
  // borders are repeated for the picture, as far as both means reach
  const m = 2 * r
  const [gw, gh] = [w + 2 * m, h + 2 * m]
  const at = reader(pre, w, h)
  const planes = Array.from({ length: 10 }, () => new Float64Array(gw * gh))
  const guide = new Float64Array(gw * gh)
  for (let i = 0; i < gw * gh; i++) {
    const [x, y] = [(i % gw) - m, Math.floor(i / gw) - m]
    const c = [0, 1, 2, 3].map((k) => at(x, y, k))
    const l = 0.2126 * c[0]! + 0.7152 * c[1]! + 0.0722 * c[2]!
    guide[i] = l
    c.forEach((v, k) => {
      planes[k]![i] = v
      planes[4 + k]![i] = v * l
    })
    planes[8]![i] = l
    planes[9]![i] = l * l
  }
  const n = (2 * r + 1) ** 2
  const mean = (v: Float64Array, x: number, y: number) => {
    let sum = 0
    for (let j = y - r; j <= y + r; j++) for (let i = x - r; i <= x + r; i++) sum += v[j * gw + i]!
    return sum / n
  }
  const slopes = Array.from({ length: 8 }, () => new Float64Array(gw * gh))
  for (let y = r; y < gh - r; y++) {
    for (let x = r; x < gw - r; x++) {
      const l = mean(planes[8]!, x, y)
      const variance = mean(planes[9]!, x, y) - l * l
      for (let c = 0; c < 4; c++) {
        const v = mean(planes[c]!, x, y)
        const a = (mean(planes[4 + c]!, x, y) - v * l) / (variance + eps)
        slopes[c]![y * gw + x] = a
        slopes[4 + c]![y * gw + x] = v - a * l
      }
    }
  }
  const out = new Float64Array(w * h * 4)
  for (let i = 0; i < w * h; i++) {
    const [x, y] = [(i % w) + m, Math.floor(i / w) + m]
    for (let c = 0; c < 4; c++) out[i * 4 + c] = Math.min(1, Math.max(0, mean(slopes[c]!, x, y) * guide[y * gw + x]! + mean(slopes[4 + c]!, x, y)))
  }
  return out
}

test.each(edgePictures())('%s: follows the definition within 1/255 where the grid is not reduced', (_, p) => {
  expect(guidedPlan(3)).toEqual({ f: 1, r: 3 })
  expect(worst(guided(p, 3, 0.01), { v: straightOf(definition(p, 3, 0.01)) }) / 257).toBeLessThan(1)
})

test('on a reduced grid it stays close to the definition on a natural picture (He & Sun 2015)', async () => {
  const { data } = await sharp(join(__dirname, '../../../../demo/photos/boathouse.jpg'))
    .extract({ left: 500, top: 400, width: 96, height: 72 })
    .raw()
    .toBuffer({ resolveWithObject: true })
  const p = rgba(data, 96, 72, 3)
  expect(guidedPlan(8)).toEqual({ f: 2, r: 4 })
  const got = guided(p, 8, 0.01)
  const want = straightOf(definition(p, 8, 0.01))
  let sum = 0
  for (let i = 0; i < want.length; i++) sum += Math.abs(got.v[i]! - want[i]!) / 257
  // windows of 9 cells are 18 pixels wide, not 17, and the cells themselves are means
  expect(sum / want.length).toBeLessThan(1)
})

test('keeps a strong edge and smooths weak texture', () => {
  const [w, h] = [80, 40]
  const v = Uint16Array.from({ length: w * h * 4 }, (_, i) => {
    if (i % 4 === 3) return 65535
    const x = (i >> 2) % w
    return (x < 40 ? 12000 : 50000) + (x % 2 ? 600 : -600)
  })
  const got = guided({ w, h, v }, 8, 0.004)
  const row = Array.from({ length: w }, (_, x) => got.v[(20 * w + x) * 4]!)
  expect(row[41]! - row[38]!).toBeGreaterThan(0.9 * 38000)
  expect(Math.abs(row[20]! - row[21]!)).toBeLessThan(120)
})
