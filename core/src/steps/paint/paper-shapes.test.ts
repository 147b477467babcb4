import sharp from 'sharp'
import { newStep } from '../../artwork/layers.ts'
import { artworkFromPhoto } from '../../artwork/load.ts'
import type { Artwork } from '../../artwork/schema.ts'
import { writeSvg } from '../../formats/svg.ts'
import { drawnLines } from '../../engine/line-file.ts'
import type { Engine } from '../../engine/engine.ts'
import { loadKernels } from '../../kernels/load-node.ts'
import type { Kernels } from '../../kernels/kernels.ts'
import { MemorySources } from '../../testing/memory-source.ts'
import { closer } from './paper-sheets.ts'
import { compute, formsPicture, newTestEngine } from '../../testing/pictures.ts'

const asset = 'a'.repeat(64)
const [W, H] = [480, 320]
let kernels: Kernels
let sources: MemorySources
let engine: Engine
beforeAll(async () => {
  kernels = await loadKernels()
  sources = new MemorySources()
  await sources.add(kernels, asset, { width: W, height: H, channels: 3, depth: 8 }, formsPicture(W, H))
  engine = newTestEngine(kernels, sources)
})

function cut(
  params: Record<string, unknown>,
  of: { asset: string; width: number; height: number } = { asset, width: W, height: H },
  edit: (a: Artwork) => void = () => undefined,
): Artwork {
  const a = structuredClone(artworkFromPhoto({ ...of, title: 't' }))
  a.layers[0]!.chain = [newStep('paper-shapes', params)]
  edit(a)
  return a
}
const flat = { thickness: { value: 0, unit: 'px' } }
const hexAt = (v: Uint16Array, i: number): string =>
  `#${[0, 1, 2]
    .map((k) =>
      Math.round(v[i * 4 + k]! / 257)
        .toString(16)
        .padStart(2, '0'),
    )
    .join('')}`
/** How many pixels have each colour, the commonest first. */
function colours(v: Uint16Array): [string, number][] {
  const n = new Map<string, number>()
  for (let i = 0; i < v.length; i += 4) {
    const c = hexAt(v, i / 4)
    n.set(c, (n.get(c) ?? 0) + 1)
  }
  return [...n].sort((a, b) => b[1] - a[1])
}

test('there are no colours but those of the papers, and of the rims between two of them', async () => {
  const papers = ['#203040', '#d8c8a0', '#b04030', '#f4f0e8']
  const { pixels } = await compute(engine, cut({ ...flat, colours: papers }))
  const all = colours(pixels)
  const own = all.filter(([c]) => papers.includes(c))
  expect(own.length).toBeGreaterThan(1)
  expect(own.reduce((sum, [, n]) => sum + n, 0) / (W * H)).toBeGreaterThan(0.93)
})

test('no piece is smaller than it may be, and no outline bends tighter, but for a tenth of its places', async () => {
  const radius = 12
  const { groups } = await drawnLines(engine, cut({ ...flat, radius: { value: radius, unit: 'px' }, piece: { value: 24, unit: 'px' } }), 'shapes')
  const bends: number[] = []
  for (const { marks } of groups.slice(1)) {
    const { areas, areaStarts } = marks
    for (let k = 0; k + 1 < areaStarts.length; k++) {
      const line = Array.from(
        { length: areaStarts[k + 1]! - areaStarts[k]! },
        (_, i) => [areas[(areaStarts[k]! + i) * 2]!, areas[(areaStarts[k]! + i) * 2 + 1]!] as const,
      )
      let area = 0
      line.forEach(([x, y], i) => {
        const [u, v] = line[(i + 1) % line.length]!
        area += (x * v - u * y) / 2
      })
      expect(Math.abs(area)).toBeGreaterThan(0.3 * 24 * 24)
      // the circle through a place and those some way before and behind it (Menger's curvature)
      const long = line.map(([x, y], i) => Math.hypot(x - line[(i + 1) % line.length]![0], y - line[(i + 1) % line.length]![1]))
      const from = (i: number, way: number) => {
        let d = 0
        let at = i
        while (d < radius / 2) {
          const next = (at + way + line.length) % line.length
          d += long[way > 0 ? at : next]!
          at = next
          if (at === i) break
        }
        return line[at]!
      }
      line.forEach((p, i) => {
        const [a, b] = [from(i, -1), from(i, 1)]
        // the picture's own border is no cut
        if ([a, p, b].some(([x, y]) => x < 6 || y < 6 || x > W - 6 || y > H - 6)) return
        const twice = Math.abs((b[0] - a[0]) * (p[1] - a[1]) - (b[1] - a[1]) * (p[0] - a[0]))
        if (twice < 1e-6) return
        bends.push((Math.hypot(a[0] - p[0], a[1] - p[1]) * Math.hypot(b[0] - p[0], b[1] - p[1]) * Math.hypot(a[0] - b[0], a[1] - b[1])) / (2 * twice))
      })
    }
  }
  expect(bends.length).toBeGreaterThan(20)
  bends.sort((a, b) => a - b)
  expect(bends[Math.floor(bends.length / 10)]!).toBeGreaterThan(radius * 0.6)
})

test('sheets run under their neighbours: where two meet, nothing of what lies deeper is seen between them, however they are cut', async () => {
  for (const straight of [0, 0.5, 1]) {
    const a = cut({ ...flat, straight, radius: { value: 6, unit: 'px' } })
    const { groups } = await drawnLines(engine, a, 'shapes')
    expect(groups.length).toBeGreaterThan(2)
    expect(groups[0]!.marks.areas.length).toBe(8)
    const colour = groups[0]!.colour
    const { pixels } = await compute(engine, a)
    // of the lowest sheet nothing thinner than what could be cut: taken away two pixels from each side and given back, almost all of it is there
    const is = Array.from({ length: W * H }, (_, i) => hexAt(pixels, i) === colour)
    const far = (of: boolean[], by: number) =>
      of.map((_, i) => {
        for (let dy = -by; dy <= by; dy++)
          for (let dx = -by; dx <= by; dx++) {
            const [x, y] = [(i % W) + dx, Math.floor(i / W) + dy]
            if (x >= 0 && y >= 0 && x < W && y < H && of[y * W + x]) return true
          }
        return false
      })
    const kept = far(
      far(
        is.map((v) => !v),
        2,
      ).map((v) => !v),
      2,
    )
    const all = is.filter(Boolean).length
    const thin = is.filter((v, i) => v && !kept[i]).length
    expect([straight, thin / all < 0.01]).toEqual([straight, true])
  }
})

test('straighter cuts run straight for more of their length, and leave the outline by no more than they may', async () => {
  /** The share of all outlines that runs on within 5° over sixteen pixels. */
  const runs = async (straight: number) => {
    const { groups } = await drawnLines(engine, cut({ ...flat, straight, count: 4, radius: { value: 4, unit: 'px' } }), 'shapes')
    let [ruled, all] = [0, 0]
    for (const { marks } of groups.slice(1)) {
      const { areas, areaStarts } = marks
      for (let k = 0; k + 1 < areaStarts.length; k++) {
        const line = closer(
          Array.from({ length: areaStarts[k + 1]! - areaStarts[k]! }, (_, i) => ({
            x: areas[(areaStarts[k]! + i) * 2]!,
            y: areas[(areaStarts[k]! + i) * 2 + 1]!,
          })),
          1,
        )
        line.forEach((p, i) => {
          // the picture's own border is no cut
          if (p.x < 6 || p.y < 6 || p.x > W - 6 || p.y > H - 6) return
          const [a, b] = [line[(i + line.length - 8) % line.length]!, line[(i + 8) % line.length]!]
          const turn = Math.atan2((p.x - a.x) * (b.y - p.y) - (p.y - a.y) * (b.x - p.x), (p.x - a.x) * (b.x - p.x) + (p.y - a.y) * (b.y - p.y))
          all++
          if (Math.abs(turn) < (5 * Math.PI) / 180) ruled++
        })
      }
    }
    return ruled / all
  }
  const [round, half, straight] = [await runs(0), await runs(0.5), await runs(1)]
  expect(half).toBeGreaterThan(round)
  expect(straight).toBeGreaterThan(half)
  const shares = async (v: number) => (await compute(engine, cut({ ...flat, straight: v, count: 4, radius: { value: 4, unit: 'px' } }))).pixels
  const [bent, ruled] = [await shares(0), await shares(1)]
  let other = 0
  for (let i = 0; i < bent.length; i += 4) if (Math.abs(bent[i]! - ruled[i]!) > 3000) other++
  expect(other / (W * H)).toBeLessThan(0.05)
})

test('shadows fall away from the lamp, the longer the lower it stands', async () => {
  const lit = async (direction: number, height: number) =>
    (
      await compute(
        engine,
        cut({ colours: ['#808080', '#e0e0e0'], thickness: { value: 6, unit: 'px' } }, undefined, (a) => (a.lamp = { direction, height })),
      )
    ).pixels
  const none = (await compute(engine, cut({ ...flat, colours: ['#808080', '#e0e0e0'] }))).pixels
  const dark = (v: Uint16Array) => {
    let n = 0
    for (let i = 0; i < v.length; i += 4) if (v[i]! < none[i]! - 600) n++
    return n
  }
  const [high, low] = [dark(await lit(135, 60)), dark(await lit(135, 30))]
  expect(high).toBeGreaterThan(50)
  // 1 / tan 30° is three times 1 / tan 60°
  expect(low / high).toBeGreaterThan(1.8)
  expect(low / high).toBeLessThan(4)
})

test('torn papers show their core here and there, cut ones do not', async () => {
  const core = (v: Uint16Array) => {
    let n = 0
    for (let i = 0; i < v.length; i += 4) if (v[i]! > 62000 && v[i + 1]! > 61000 && v[i + 2]! > 59000 && v[i + 2]! < 63500) n++
    return n
  }
  const papers = ['#203040', '#506070', '#b04030']
  const own = { ...flat, colours: papers, radius: { value: 10, unit: 'px' } }
  expect(core((await compute(engine, cut(own))).pixels)).toBe(0)
  expect(core((await compute(engine, cut({ ...own, edge: 'torn' }))).pixels)).toBeGreaterThan(40)
})

test('a flat picture, one of 20 pixels, and a cut-out with a clear middle make a sensible picture', async () => {
  const add = async (name: string, w: number, h: number, channels: 3 | 4, code: (x: number, y: number) => number[]) => {
    const id = name.repeat(64)
    const px = new Uint8Array(w * h * channels)
    for (let y = 0; y < h; y++) for (let x = 0; x < w; x++) px.set(code(x, y), (y * w + x) * channels)
    await sources.add(kernels, id, { width: w, height: h, channels, depth: 8 }, px)
    return { asset: id, width: w, height: h }
  }
  const grey = await compute(engine, cut({}, await add('b', 90, 60, 3, () => [120, 120, 120])))
  expect(colours(grey.pixels)[0]![1]).toBe(90 * 60)
  const small = await compute(engine, cut({}, await add('c', 20, 20, 3, (x) => (x < 10 ? [20, 20, 20] : [220, 220, 220]))))
  expect(small.pixels[3]).toBe(65535)
  const ring = await compute(engine, cut({}, await add('d', 80, 80, 4, (x, y) => (Math.hypot(x - 40, y - 40) < 20 ? [0, 0, 0, 0] : [200, 80, 40, 255]))))
  expect(ring.pixels[(40 * 80 + 40) * 4 + 3]).toBe(0)
  expect(ring.pixels[3]).toBe(65535)
})

test('papers run on beyond a silhouette: no other colour lies between it and what it holds', async () => {
  const id = 'e'.repeat(64)
  const [w, h] = [160, 120]
  const px = new Uint8Array(w * h * 4)
  // a disc of two dark colours on nothing
  for (let y = 0; y < h; y++)
    for (let x = 0; x < w; x++) px.set(Math.hypot(x - 80, y - 60) < 45 ? (x < 80 ? [40, 60, 120, 255] : [120, 40, 40, 255]) : [0, 0, 0, 0], (y * w + x) * 4)
  await sources.add(kernels, id, { width: w, height: h, channels: 4, depth: 8 }, px)
  for (const straight of [0, 1]) {
    const { pixels } = await compute(engine, cut({ ...flat, count: 2, straight }, { asset: id, width: w, height: h }))
    let pale = 0
    for (let i = 0; i < w * h; i++) if (pixels[i * 4 + 3]! > 0 && pixels[i * 4]! + pixels[i * 4 + 1]! + pixels[i * 4 + 2]! > 2 * 65535) pale++
    expect([straight, pale]).toEqual([straight, 0])
  }
})

test('as a file of shapes, drawn by librsvg, it is the picture', async () => {
  const a = cut(flat)
  const { pixels } = await compute(engine, a)
  const svg = [...writeSvg(await drawnLines(engine, a, 'shapes'))].join('').replace(/ width="[^"]+" height="[^"]+"/, ` width="${W}" height="${H}"`)
  const drawn = await sharp(Buffer.from(svg)).flatten({ background: '#fff' }).removeAlpha().raw().toBuffer()
  let off = 0
  for (let i = 0; i < W * H; i++) for (let c = 0; c < 3; c++) off += Math.abs(drawn[i * 3 + c]! - pixels[i * 4 + c]! / 257)
  expect(off / (W * H * 3) / 255).toBeLessThan(0.01)
})
