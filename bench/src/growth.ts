import {
  artworkFromPhoto,
  Engine,
  EngineHost,
  GraphCompiler,
  newLayer,
  newStep,
  renderStrips,
  type Artwork,
  type FromEngine,
  type Kernels,
  type Layer,
  type ToEngine,
} from '@nimble-quill/core'
import { loadKernels } from '@nimble-quill/core/node'
import { MemorySources } from '@nimble-quill/core/testing'
import { cpuSeconds, median, percentile, type Bar } from './measure.ts'
import { mosaic, type Picture } from './picture.ts'

// How the cost grows with the number of steps and layers, and what a drag costs in an artwork of twenty layers.

const ASSET = '0'.repeat(64)
const px = (value: number) => ({ value, unit: 'px' as const })
const photoOf = (p: Picture) => artworkFromPhoto({ asset: ASSET, width: p.width, height: p.height, title: 'bench' })

async function engineOf(p: Picture, bytes: number): Promise<{ kernels: Kernels; engine: Engine }> {
  const kernels = await loadKernels()
  const sources = new MemorySources()
  await sources.add(kernels, ASSET, { width: p.width, height: p.height, channels: 3, depth: 8 }, p.pixels)
  return { kernels, engine: new Engine(kernels, sources, () => new Promise((r) => setImmediate(r)), bytes) }
}

/** The i-th of steps that all differ. */
const step = (i: number) =>
  i % 3 === 0
    ? newStep('levels', { midtone: 1.05 + i / 500 })
    : i % 3 === 1
      ? newStep('gaussian-blur', { sigma: px(1.5 + i / 200) })
      : newStep('hue-saturation', { hue: 1 + i / 10 })

/** Steps or layers: of each count a third is of each kind, else a chain of eight, which has two of the dearest, seems cheap beside one of sixty-four. */
const COUNTS = [9, 18, 36, 72]

const shapes: Record<string, (p: Picture, n: number) => Artwork> = {
  'a chain at half opacity': (p, n) => {
    const a = photoOf(p)
    a.layers[0]!.chain = Array.from({ length: n }, (_, i) => ({ ...step(i), opacity: 0.5 }))
    return a
  },
  'layers of what lies below': (p, n) => {
    const a = photoOf(p)
    return { ...a, layers: [a.layers[0]!, ...Array.from({ length: n }, (_, i) => ({ ...newLayer(`L${i}`, { type: 'below' }, [step(i)]), opacity: 0.5 }))] }
  },
  'live layers, each of the one before': (p, n) => {
    const a = photoOf(p)
    a.layers[0]!.id = 'l0'
    const live = (i: number): Layer => ({ ...newLayer(`L${i}`, { type: 'live', layer: `l${i}` }, [step(i)], `l${i + 1}`), opacity: 0.5 })
    return { ...a, layers: [a.layers[0]!, ...Array.from({ length: n }, (_, i) => live(i))] }
  },
}

/** Layers with five steps each (levels, Gaussian blur, hue, unsharp mask, median), their sources in turn the photo, what lies below, and the layer two below, live. */
function layered(p: Picture, n: number): Artwork {
  const a = photoOf(p)
  const photo = a.layers[0]!.source
  const layers = Array.from({ length: n }, (_, i): Layer => {
    const source: Layer['source'] = i % 3 === 0 ? photo : i % 3 === 1 ? { type: 'below' } : { type: 'live', layer: `l${i - 2}` }
    return { ...newLayer(`L${i}`, source, fiveSteps(i), `l${i}`), opacity: i === 0 ? 1 : 0.5 }
  })
  return { ...a, layers }
}
const fiveSteps = (i: number) => [
  newStep('levels', { midtone: 1.1 + i / 100 }),
  newStep('gaussian-blur', { sigma: px(2) }),
  newStep('hue-saturation', { hue: 10 }),
  newStep('unsharp-mask'),
  newStep('median', { radius: px(2) }),
]

async function seconds(engine: Engine, artwork: Artwork, rounds = 3): Promise<number> {
  const node = new GraphCompiler(artwork, engine.kernels.hash).compile({ type: 'artwork' })
  const t: number[] = []
  for (let i = 0; i < rounds; i++) {
    engine.clear()
    t.push(await cpuSeconds(() => renderStrips(engine, node, 0, artwork.sheet, () => undefined)))
  }
  return median(t)
}

/** Asks a host and waits until it has answered whole; answers with the milliseconds to each level, or to the settled picture. */
function asking(engine: Engine): (m: ToEngine) => Promise<number[]> {
  let done: ((ms: number) => void) | null = null
  const host = new EngineHost(engine, (m: FromEngine) => {
    if (m.type === 'failed') throw new Error(m.message)
    if (m.type === 'level-done' || (m.type === 'settled' && m.share === 1)) done?.(performance.now())
  })
  return (m) =>
    new Promise((answered) => {
      const started = performance.now()
      const times: number[] = []
      const wanted = m.type === 'view' ? m.levels.length : 1
      done = (now) => {
        times.push(now - started)
        if (times.length === wanted) answered(times)
      }
      host.receive(m)
      if (m.type === 'artwork') answered([])
    })
}

export async function measureGrowth(photos: string): Promise<{ text: string; bars: Bar[] }> {
  const bars: Bar[] = []
  const lines = [
    `| CPU seconds over 2 megapixels, one thread | ${COUNTS.join(' | ')} | exponent, ${COUNTS[0]} to ${COUNTS.at(-1)} |`,
    '| --- | ---: | ---: | ---: | ---: | ---: |',
  ]
  const two = await mosaic(photos, 2)
  for (const [name, make] of Object.entries(shapes)) {
    const { engine } = await engineOf(two, 256 * 2 ** 20)
    await seconds(engine, make(two, 3), 1)
    // once for their tables; then in turns, since the machine's pace swings
    for (const n of COUNTS) await seconds(engine, make(two, n), 1)
    const each = COUNTS.map((): number[] => [])
    for (let round = 0; round < 3; round++) for (const [i, n] of COUNTS.entries()) each[i]!.push(await seconds(engine, make(two, n), 1))
    const t = each.map(median)
    const exponent = Math.log(t.at(-1)! / t[0]!) / Math.log(COUNTS.at(-1)! / COUNTS[0]!)
    console.log(`  ${name}: ${t.map((v) => v.toFixed(2)).join(' ')}`)
    lines.push(`| ${name} | ${t.map((v) => v.toFixed(2)).join(' | ')} | ${exponent.toFixed(2)} |`)
    bars.push({ what: `${name}: growth over the number`, bar: '≤ 1.05', measured: exponent.toFixed(2), met: exponent <= 1.05 })
  }
  const four = await mosaic(photos, 4)
  const { kernels, engine } = await engineOf(four, 256 * 2 ** 20)
  let alone = 0
  for (const use of fiveSteps(0)) {
    const a = photoOf(four)
    a.layers[0]!.chain = [use]
    await seconds(engine, a, 1)
    alone += await seconds(engine, a)
  }
  const whole = await seconds(engine, layered(four, 18), 1)
  console.log(`  eighteen layers: ${whole.toFixed(2)} s, alone ${(18 * alone).toFixed(2)} s`)
  const ratio = whole / (18 * alone)
  const held = Math.round(kernels.memory.buffer.byteLength / 2 ** 20)
  lines.push(
    '',
    `Eighteen layers of five steps over 4 megapixels: ${whole.toFixed(2)} s, their steps alone ${(18 * alone).toFixed(2)} s, kernel memory at most ${held} MiB.`,
  )
  bars.push({ what: 'eighteen layers to their steps alone', bar: '≤ 1.3×', measured: `${ratio.toFixed(2)}×`, met: ratio <= 1.3 })
  bars.push({ what: 'eighteen layers, kernel memory', bar: '≤ 512 MiB', measured: `${held} MiB`, met: held <= 512 })

  const large = await mosaic(photos, 24)
  const big = await engineOf(large, 512 * 2 ** 20)
  const ask = asking(big.engine)
  let version = 1
  const view = async (artwork: Artwork, settle = false) => {
    const id = version++
    await ask({ type: 'artwork', artwork, version: id })
    const [region, target] = [artwork.sheet, { type: 'artwork' as const }]
    return ask(settle ? { type: 'settle', id, slot: 'main', target, region, level: 2 } : { type: 'view', id, slot: 'main', target, region, levels: [3, 2] })
  }
  const twenty = layered(large, 20)
  const changed = (at: number, opacity: number): Artwork => ({
    ...twenty,
    layers: twenty.layers.map((l, i) => (i === at ? { ...l, chain: l.chain.map((s, k) => (k === 0 ? { ...s, opacity } : s)) } : l)),
  })
  lines.push(
    '',
    '| twenty layers over 24 megapixels, one thread | 1/8, ms (median) | 1/8, ms (95th percentile) | 1/4, ms | settled, s |',
    '| --- | ---: | ---: | ---: | ---: |',
  )
  for (const [name, at] of [
    ['bottom', 0],
    ['middle', 10],
    ['top', 19],
  ] as const) {
    const coarse: number[] = []
    const fine: number[] = []
    await view(changed(at, 0.45))
    for (let i = 0; i < 20; i++) {
      const [first, second] = await view(changed(at, 0.5 + i / 100))
      coarse.push(first!)
      fine.push(second! - first!)
    }
    const [settled] = await view(changed(at, 0.21), true)
    console.log(`  ${name}: coarse ${median(coarse).toFixed(0)} ms, settled ${(settled! / 1000).toFixed(1)} s`)
    lines.push(
      `| a value in the ${name} one dragged | ${median(coarse).toFixed(0)} | ${percentile(coarse, 0.95).toFixed(0)} | ${median(fine).toFixed(0)} | ${(settled! / 1000).toFixed(1)} |`,
    )
  }
  console.log(lines.join('\n'))
  return { text: lines.join('\n'), bars }
}
