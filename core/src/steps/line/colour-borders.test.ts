import type { Kernels } from '../../kernels/kernels.ts'
import { loadKernels } from '../../kernels/load-node.ts'
import { field, type Field } from '../../study/fields.ts'
import { colourBorders, opponentsOf, type Opponents } from './colour-borders.ts'

let kernels: Kernels
beforeAll(async () => {
  kernels = await loadKernels()
})
const pause = async () => undefined
const { abs, ceil, floor, hypot, log2, max, round } = Math

type Rgb = readonly [number, number, number]
type At = (x: number, y: number) => Rgb
// of one lightness by the weights of ITU-R BT.709
const RED: Rgb = [0.85, 0.22, 0.2]
const GREEN: Rgb = [0.22, 0.406, 0.2]
const lightness = ([r, g, b]: Rgb) => 0.2126 * r + 0.7152 * g + 0.0722 * b

/** The pixels of a part of the plane at a scale, as the engine counts them: whole ones round about it. */
function pixels({ x, y, w, h }: { x: number; y: number; w: number; h: number }, scale: number) {
  const [left, top] = [floor(x / scale), floor(y / scale)]
  return { w: ceil((x + w) / scale) - left, h: ceil((y + h) / scale) - top, x: left * scale, y: top * scale, scale }
}
async function seen(part: { x: number; y: number; w: number; h: number }, scale: number, at: At): Promise<Opponents> {
  const region = pixels(part, scale)
  const { w, h } = region
  return kernels.scratch(w * h * 8, (ptr) => {
    const codes = kernels.u16(ptr, w * h * 4)
    for (let y = 0, i = 0; y < h; y++)
      for (let x = 0; x < w; x++) for (const v of [...at(region.x + (x + 0.5) * scale, region.y + (y + 0.5) * scale), 1]) codes[i++] = round(65535 * v)
    const its = { x: region.x / scale, y: region.y / scale, w, h }
    return opponentsOf({ input: { ptr, stride: w * 8, region: its }, kernels, level: log2(scale), extent: part, pause })
  })
}
function study(part: { x: number; y: number; w: number; h: number }, scale: number, at: At) {
  const its = pixels(part, scale)
  const fine = field(its.w, its.h)
  for (let y = 0; y < its.h; y++) for (let x = 0; x < its.w; x++) fine.v[y * its.w + x] = lightness(at(its.x + (x + 0.5) * scale, its.y + (y + 0.5) * scale))
  return { ...its, fine }
}
const highest = ({ v }: Field) => v.reduce((a, b) => max(a, b), 0)

test('a border is as high as the step from colour to colour, in the share that it counts, and lies where they meet', async () => {
  const at: At = (x) => (x < 60 ? RED : GREEN)
  const part = { x: 0, y: 0, w: 120, h: 60 }
  const found = await colourBorders(kernels, await seen(part, 1, at), study(part, 1, at), 2, 0.5, pause)
  // red against green 0.63 + 0.186, blue the same but for what red and green are together
  const [u, v] = [RED[0] - RED[1] - GREEN[0] + GREEN[1], 0.7 * 0.5 * (GREEN[0] + GREEN[1] - RED[0] - RED[1])]
  expect(highest(found.height)).toBeGreaterThan(0.5 * hypot(u, v) * 0.85)
  expect(highest(found.height)).toBeLessThan(0.5 * hypot(u, v) * 1.15)
  for (let x = 0; x < 120; x++) if (abs(x - 59.5) > 8) expect(found.height.v[30 * 120 + x]!).toBeLessThan(0.01)
  const row = found.height.v.slice(30 * 120, 31 * 120)
  expect(abs(row.indexOf(highest(found.height)) - 59.5)).toBeLessThan(1)
})

test.each([
  [0, 0],
  [2, 0],
  [-7, 3],
  [5, -9],
])('colours that begin elsewhere than the study, in half its size (%d, %d): the border lies where they meet', async (x, y) => {
  const part = { x, y, w: 243, h: 160 }
  const at: At = (px, py) => (px + 0.5 * py < x + 0.5 * y + 160 ? RED : GREEN)
  const by = study(part, 2, at)
  const { height } = await colourBorders(kernels, await seen(part, 4, at), by, 1, 0.5, pause)
  expect([height.w, height.h]).toEqual([by.w, by.h])
  for (let j = 10; j < by.h - 10; j += 10) {
    let [sum, all] = [0, 0]
    for (let i = 0; i < by.w; i++) {
      sum += height.v[j * by.w + i]! * (by.x + (i + 0.5) * 2)
      all += height.v[j * by.w + i]!
    }
    expect(abs(sum / all - (x + 0.5 * y + 160 - 0.5 * (by.y + (j + 0.5) * 2)))).toBeLessThan(1.5)
  }
})

test('light and shade on a colour are no border of colours, nor are greys', async () => {
  const part = { x: 0, y: 0, w: 120, h: 60 }
  for (const colour of [RED, GREEN, [0.3, 0.45, 0.8], [0.7, 0.7, 0.7]] as const) {
    const at: At = (x) => colour.map((v) => v * (x < 60 ? 0.5 : 1)) as unknown as Rgb
    const { height } = await colourBorders(kernels, await seen(part, 1, at), study(part, 1, at), 2, 0.5, pause)
    expect(highest(height)).toBeLessThan(0.01)
  }
})

test('the axis across a border does not depend on which colour is on which side', async () => {
  const part = { x: 0, y: 0, w: 100, h: 100 }
  const axis = async (one: Rgb, other: Rgb) => {
    const at: At = (x, y) => (x + y < 100 ? one : other)
    const found = await colourBorders(kernels, await seen(part, 1, at), study(part, 1, at), 2, 0.5, pause)
    const { x, y } = found.across()
    const [dx, dy] = [x.v[50 * 100 + 49]!, y.v[50 * 100 + 49]!]
    return (dx * dy) / (dx * dx + dy * dy)
  }
  // 45 degrees: half of the square of its length
  expect(await axis(RED, GREEN)).toBeCloseTo(0.5, 2)
  expect(await axis(GREEN, RED)).toBeCloseTo(0.5, 2)
})
