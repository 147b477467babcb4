import { spawn } from 'node:child_process'
import { join } from 'node:path'
import { Worker } from 'node:worker_threads'
import { GraphCompiler, instantiate, recipes, renderStrips, type Artwork, type Kernels } from '@nimble-quill/core'
import { loadKernels } from '@nimble-quill/core/node'
import { MemorySources } from '@nimble-quill/core/testing'
import { mixedChain, sixLayers, wideBlur, type PhotoFacts } from '@nimble-quill/core/testing/chains'
import { newEngine } from '@nimble-quill/server/rendering'
import { chainArtwork, libvips, opencv, ours as oursGraphite } from './graphite-chain.ts'
import { cpuSeconds, growth, median, type Bar } from './measure.ts'
import type { Native } from './native.ts'
import type { Picture } from './picture.ts'

const ASSET = '0'.repeat(64)
const facts = (p: Picture): PhotoFacts => ({ asset: ASSET, width: p.width, height: p.height, title: 'bench' })

/** The Graphite recipe, as the picker puts it on a photo. */
export function graphiteRecipe(photo: PhotoFacts): Artwork {
  const a = mixedChain(photo)
  const { layers, use } = instantiate(
    recipes.find((r) => r.id === 'graphite')!,
    { type: 'photo', asset: photo.asset, width: photo.width, height: photo.height },
  )
  return { ...a, layers, recipes: [use] }
}

export const artworks: Record<string, (photo: PhotoFacts) => Artwork> = {
  'graphite chain': chainArtwork,
  'Graphite recipe': graphiteRecipe,
  'ten mixed steps': mixedChain,
  'six layers blended': sixLayers,
  'blur of 2 %': wideBlur,
}

/** An artwork rendered by strips, as often as asked. */
async function renderer(p: Picture, make: (photo: PhotoFacts) => Artwork, threads: number): Promise<() => Promise<void>> {
  const kernels: Kernels = await loadKernels(2 ** 30, threads)
  const sources = new MemorySources()
  await sources.add(kernels, ASSET, { width: p.width, height: p.height, channels: 3, depth: 8 }, p.pixels)
  const engine = newEngine(kernels, sources)
  const node = new GraphCompiler(make(facts(p)), kernels.hash).compile({ type: 'artwork' })
  return async () => {
    engine.clear()
    await renderStrips(engine, node, 0, { x: 0, y: 0, w: p.width, h: p.height }, () => undefined)
  }
}

export interface ChainRow {
  chain: string
  megapixels: number
  /** CPU seconds of ours on one thread. */
  seconds: number
  vips: number | null
  native: number | null
  js: number | null
}

/** Chains on one thread; the graphite chain against its references, operation by operation. */
export async function measureChains(p: Picture, megapixels: number, native: Native | null): Promise<ChainRow[]> {
  const rows: ChainRow[] = []
  const rounds = megapixels > 50 ? 1 : 3
  await native?.load(p)
  for (const [chain, make] of Object.entries(artworks)) {
    const t = { ours: [] as number[], vips: [] as number[], native: [] as number[], js: [] as number[] }
    const others = chain === 'graphite chain' && megapixels < 50 ? { vips: await libvips(p), js: await opencv(p) } : null
    const run = others ? (await oursGraphite(p)).run : await renderer(p, make, 1)
    if (megapixels < 50) await run()
    for (let i = 0; i < rounds; i++) {
      t.ours.push(await cpuSeconds(run))
      if (!others) continue
      t.vips.push(await cpuSeconds(others.vips.run))
      if (i === 0) t.js.push(await cpuSeconds(others.js.run))
      const n = await native?.seconds('graphite', { sigma: 0.003 * p.width })
      if (typeof n === 'number') t.native.push(n)
    }
    const ratio = (v: number[]) => (v.length ? median(v.map((x, i) => t.ours[i]! / x)) : null)
    const row = { chain, megapixels, seconds: median(t.ours), vips: ratio(t.vips), native: ratio(t.native), js: ratio(t.js) }
    console.log(
      `  ${chain} at ${megapixels} MP: ${row.seconds.toFixed(2)} s, libvips ${row.vips?.toFixed(2) ?? '–'}, native ${row.native?.toFixed(2) ?? '–'}, js ${row.js?.toFixed(2) ?? '–'}`,
    )
    rows.push(row)
  }
  return rows
}

export function chainTable(rows: readonly ChainRow[]): string {
  const shown = (v: number | null) => (v === null ? '–' : `${v.toFixed(2)}×`)
  return [
    '| chain | megapixels | CPU seconds, one thread | to libvips | to OpenCV native | to opencv-js |',
    '| --- | ---: | ---: | ---: | ---: | ---: |',
    ...rows.map((r) => `| ${r.chain} | ${r.megapixels} | ${r.seconds.toFixed(2)} | ${shown(r.vips)} | ${shown(r.native)} | ${shown(r.js)} |`),
  ].join('\n')
}

export function chainBars(rows: readonly ChainRow[]): Bar[] {
  const bars: Bar[] = []
  const big = rows.find((r) => r.chain === 'graphite chain' && r.megapixels === 24)
  if (big?.vips) bars.push({ what: 'graphite chain at 24 MP to libvips', bar: '≤ 0.6×', measured: `${big.vips.toFixed(2)}×`, met: big.vips <= 0.6 })
  if (big?.native)
    bars.push({
      what: 'graphite chain at 24 MP to OpenCV native, 16 bits, op by op',
      bar: '≤ 1.0×',
      measured: `${big.native.toFixed(2)}×`,
      met: big.native <= 1,
    })
  const exponents = Object.keys(artworks).flatMap((chain) => {
    const of = rows.filter((r) => r.chain === chain).sort((a, b) => a.megapixels - b.megapixels)
    return of.length > 1 ? [{ chain, e: growth(of[0]!, of.at(-1)!) }] : []
  })
  if (exponents.length) {
    const worst = exponents.reduce((a, b) => (b.e > a.e ? b : a))
    bars.push({ what: 'growth exponent of chains, the largest', bar: '≤ 1.05', measured: `${worst.e.toFixed(2)} (${worst.chain})`, met: worst.e <= 1.05 })
  }
  return bars
}

const SPIN = `const spin = () => { let x = 0; for (let i = 0; i < 2e8; i++) x = (x * 31 + i) | 0; return x }`

/** What two spinning threads gain over one, now. */
async function spinGain(): Promise<number> {
  const worker = new Worker(
    `${SPIN}; const { parentPort } = require('node:worker_threads'); parentPort.on('message', () => { spin(); parentPort.postMessage(0) })`,
    { eval: true },
  )
  // oxlint-disable-next-line no-new-func
  const spin = new Function(`${SPIN}; return spin`)() as () => number
  const there = () => new Promise((done) => (worker.once('message', done), worker.postMessage(0)))
  spin()
  await there()
  let start = performance.now()
  spin()
  spin()
  const one = performance.now() - start
  start = performance.now()
  const other = there()
  spin()
  await other
  const two = performance.now() - start
  await worker.terminate()
  return one / two
}

/** Wall time of chains on one and two threads, interleaved with what two spinning threads gain. */
export async function measureThreads(p: Picture, megapixels: number): Promise<{ text: string; bars: Bar[] }> {
  const lines = [
    '| chain | megapixels | one thread, s | two threads, s | gain | spinning threads gain | share of it |',
    '| --- | ---: | ---: | ---: | ---: | ---: | ---: |',
  ]
  const bars: Bar[] = []
  for (const chain of ['Graphite recipe', 'ten mixed steps']) {
    const [one, two] = [await renderer(p, artworks[chain]!, 1), await renderer(p, artworks[chain]!, 2)]
    await one()
    await two()
    const wall = async (f: () => Promise<void>) => {
      const start = performance.now()
      await f()
      return (performance.now() - start) / 1000
    }
    const [a, b, g]: number[][] = [[], [], []]
    for (let i = 0; i < 5; i++) {
      g!.push(await spinGain())
      a!.push(await wall(one))
      b!.push(await wall(two))
      g!.push(await spinGain())
    }
    const gain = median(a!.map((x, i) => x / b![i]!))
    const spin = median(g!)
    lines.push(
      `| ${chain} | ${megapixels} | ${median(a!).toFixed(2)} | ${median(b!).toFixed(2)} | ${gain.toFixed(2)} | ${spin.toFixed(2)} | ${(gain / spin).toFixed(2)} |`,
    )
    bars.push({ what: `${chain} on two threads, of what two spinning threads gain`, bar: '≥ 0.8', measured: (gain / spin).toFixed(2), met: gain / spin >= 0.8 })
  }
  console.log(lines.join('\n'))
  return { text: lines.join('\n'), bars }
}

interface Large {
  seconds: number
  memory: number
  cancel: number
}

/** Renders of a large picture through the server's own code, each in a process of its own: time, memory above idle, cancelling. */
export async function measureLarge(megapixels: number): Promise<{ text: string; bars: Bar[] }> {
  const lines = ['| render to PNG, two threads | megapixels | seconds | peak memory above idle | stops after, ms |', '| --- | ---: | ---: | ---: | ---: |']
  const bars: Bar[] = []
  for (const chain of ['Graphite recipe', 'blur of 2 %']) {
    const child = spawn(process.execPath, [join(import.meta.dirname, 'large.js'), chain, String(megapixels)], { stdio: ['ignore', 'pipe', 'inherit'] })
    let out = ''
    child.stdout.on('data', (d) => (out += d))
    await new Promise((done) => child.on('close', done))
    const r = JSON.parse(out.trim().split('\n').at(-1)!) as Large
    lines.push(`| ${chain} | ${megapixels} | ${r.seconds.toFixed(1)} | ${Math.round(r.memory / 2 ** 20)} MiB | ${Math.round(r.cancel)} |`)
    bars.push({ what: `${chain}, ${megapixels} MP: memory above idle`, bar: '≤ 1.5 GB', measured: `${(r.memory / 1e9).toFixed(2)} GB`, met: r.memory <= 1.5e9 })
    bars.push({ what: `${chain}, ${megapixels} MP: cancelled within`, bar: '0.3 s', measured: `${(r.cancel / 1000).toFixed(2)} s`, met: r.cancel <= 300 })
  }
  console.log(lines.join('\n'))
  return { text: lines.join('\n'), bars }
}
