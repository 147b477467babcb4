import {
  artworkFromPhoto,
  Engine,
  EngineHost,
  newLayer,
  newStep,
  placed,
  type Artwork,
  type BlendMode,
  type FromEngine,
  type Layer,
  type ToEngine,
} from '@nimble-quill/core'
import { loadKernels } from '@nimble-quill/core/node'
import { MemorySources } from '@nimble-quill/core/testing'
import { median, percentile, type Bar } from './measure.ts'
import { mosaic } from './picture.ts'

// What layers that are laid elsewhere cost: twenty of them, blended, over a large photo; one dragged, and the settled picture.

const ASSET = '0'.repeat(64)
const N = 20
const modes: BlendMode[] = ['normal', 'multiply', 'screen', 'overlay', 'soft-light']

/** Twenty layers over a photo, turned and made smaller by different amounts; each third is of one step. */
export function artworkOf(width: number, height: number, moved = -1, by = 0): Artwork {
  const a = artworkFromPhoto({ asset: ASSET, width, height, title: 'bench' })
  const { source } = a.layers[0]!
  const middle = { x: width / 2, y: height / 2 }
  const layers = Array.from({ length: N }, (_, i): Layer => {
    const at = {
      x: width * (0.2 + ((i * 7) % 13) / 20) + (i === moved ? by : 0),
      y: height * (0.2 + ((i * 5) % 11) / 18),
      scaleX: 0.3 + ((i * 3) % 7) / 10,
      scaleY: 0.3 + ((i * 3) % 7) / 10,
      angle: (i * 37) % 360,
      slant: 0,
    }
    return {
      ...newLayer(`L${i}`, source, i % 3 === 0 ? [newStep('levels', { midtone: 1.1 + i / 100 })] : [], `l${i}`),
      placement: { matrix: [...placed(at, middle)] as Layer['placement']['matrix'], pivot: null },
      blend: modes[i % modes.length]!,
      opacity: 0.7,
    }
  })
  return { ...a, layers: [a.layers[0]!, ...layers] }
}

export async function measurePlacing(photos: string): Promise<{ text: string; bars: Bar[] }> {
  const photo = await mosaic(photos, 24)
  const kernels = await loadKernels(2 ** 30, 2)
  const sources = new MemorySources()
  await sources.add(kernels, ASSET, { width: photo.width, height: photo.height, channels: 3, depth: 8 }, photo.pixels)
  const engine = new Engine(kernels, sources, () => new Promise((r) => setImmediate(r)), 512 * 2 ** 20)
  let told: ((m: FromEngine) => void) | null = null
  const host = new EngineHost(engine, (m) => told?.(m))
  const ask = (m: ToEngine & { type: 'view' | 'settle' }) =>
    new Promise<number[]>((answered, failed) => {
      const started = performance.now()
      const times: number[] = []
      told = (a) => {
        if (a.type === 'failed') failed(new Error(a.message))
        if (a.type === 'level-done' || (a.type === 'settled' && a.share === 1)) times.push(performance.now() - started)
        if (times.length === (m.type === 'view' ? m.levels.length : 1)) answered(times)
      }
      host.receive(m)
    })
  let id = 1
  const look = (artwork: Artwork, settle = false) => {
    host.receive({ type: 'artwork', artwork, version: ++id })
    const [region, target] = [artwork.sheet, { type: 'artwork' as const }]
    return ask(settle ? { type: 'settle', id, slot: 'main', target, region, level: 2 } : { type: 'view', id, slot: 'main', target, region, levels: [3, 2] })
  }
  const of = (moved = -1, by = 0) => artworkOf(photo.width, photo.height, moved, by)
  const bars: Bar[] = []
  const lines = [
    '| twenty layers laid elsewhere over 24 megapixels, two threads | 1/8, ms (median) | 1/8, ms (95th percentile) | 1/4, ms | settled, s |',
    '| --- | ---: | ---: | ---: | ---: |',
  ]
  await look(of())
  const opened = await look(of(0, 1))
  console.log(`  first coarse ${opened[0]!.toFixed(0)} ms`)
  for (const [name, at] of [
    ['bottom', 0],
    ['middle', 10],
    ['top', 19],
  ] as const) {
    const [coarse, fine]: [number[], number[]] = [[], []]
    await look(of(at, 5))
    for (let i = 0; i < 20; i++) {
      const [first, second] = await look(of(at, 10 + i * 7))
      coarse.push(first!)
      fine.push(second! - first!)
    }
    const [settled] = await look(of(at, 200), true)
    const [mid, high] = [median(coarse), percentile(coarse, 0.95)]
    console.log(`  ${name}: coarse ${mid.toFixed(0)} and ${high.toFixed(0)} ms, settled ${(settled! / 1000).toFixed(1)} s`)
    lines.push(`| the ${name} one dragged | ${mid.toFixed(0)} | ${high.toFixed(0)} | ${median(fine).toFixed(0)} | ${(settled! / 1000).toFixed(1)} |`)
    bars.push({ what: `the ${name} of twenty placed layers dragged, coarse`, bar: '≤ 40 ms', measured: `${mid.toFixed(0)} ms`, met: mid <= 40 })
    bars.push({ what: `the same at the 95th percentile`, bar: '≤ 100 ms', measured: `${high.toFixed(0)} ms`, met: high <= 100 })
    bars.push({ what: `the same, settled`, bar: '≤ 18 s', measured: `${(settled! / 1000).toFixed(1)} s`, met: settled! <= 18000 })
  }
  console.log(lines.join('\n'))
  return { text: lines.join('\n'), bars }
}
