import {
  artworkFromPhoto,
  Engine,
  EngineHost,
  GraphCompiler,
  newLayer,
  newPanels,
  newStep,
  perform,
  renderStrips,
  turnedHues,
  type Artwork,
  type FromEngine,
  type Layer,
} from '@nimble-quill/core'
import { loadKernels } from '@nimble-quill/core/node'
import { MemorySources } from '@nimble-quill/core/testing'
import { newEngine } from '@nimble-quill/server/rendering'
import { graphiteRecipe } from './chains.ts'
import { median, percentile, type Bar } from './measure.ts'
import { mosaic, type Picture } from './picture.ts'

// What a sheet of panels costs against its picture alone, and a small photo as a large print.

const ASSET = '0'.repeat(64)
const MB = 2 ** 20

async function opened(photo: Picture) {
  const kernels = await loadKernels(2 ** 30, 2)
  const sources = new MemorySources()
  await sources.add(kernels, ASSET, { width: photo.width, height: photo.height, channels: 3, depth: 8 }, photo.pixels)
  return { kernels, sources }
}
const facts = (p: Picture) => ({ asset: ASSET, width: p.width, height: p.height, title: 'bench' })

/** An artwork's layers as one hidden picture, shown in rows and columns of panels, each in another hue. */
export function inPanels(a: Artwork, n: number): Artwork {
  const ways = turnedHues(16)
  const picture: Layer = { ...newLayer('Picture', { type: 'group', isolated: true, layers: a.layers }, [], 'picture'), visible: false }
  const { x, y, w, h } = a.sheet
  const panels = newLayer(
    'Panels',
    newPanels(
      'picture',
      n,
      n,
      ways.map((c) => c.id),
      { x, y, w, h },
    ),
    [],
    'panels',
  )
  return { ...a, layers: [picture, panels], colourways: ways }
}

/** Seconds from asking to the picture at a quarter, of an engine that knows nothing yet; and of a whole render. */
async function times(photo: Picture, make: () => Artwork): Promise<{ first: number; render: number; memory: number }> {
  const { kernels, sources } = await opened(photo)
  const engine = newEngine(kernels, sources)
  const artwork = make()
  const rounds: { first: number; render: number }[] = []
  for (let i = 0; i < 3; i++) {
    engine.clear()
    let told: ((m: FromEngine) => void) | null = null
    const host = new EngineHost(engine, (m) => told?.(m))
    host.receive({ type: 'artwork', artwork, version: 1 })
    let started = performance.now()
    await new Promise<void>((done, fail) => {
      told = (m) => {
        if (m.type === 'failed') fail(new Error(m.message))
        if (m.type === 'level-done') done()
      }
      host.receive({ type: 'view', id: 1, slot: 'main', target: { type: 'artwork' }, region: artwork.sheet, levels: [2] })
    })
    const first = (performance.now() - started) / 1000
    engine.clear()
    const node = new GraphCompiler(artwork, kernels.hash).compile({ type: 'artwork' })
    const { x, y, w, h } = artwork.sheet
    started = performance.now()
    await renderStrips(engine, node, 0, { x, y, w, h }, () => undefined)
    rounds.push({ first, render: (performance.now() - started) / 1000 })
  }
  return { first: median(rounds.map((r) => r.first)), render: median(rounds.map((r) => r.render)), memory: kernels.memory.buffer.byteLength / MB }
}

/** How soon a change of the picture is seen in all panels: coarse pictures, milliseconds. */
async function dragged(photo: Picture): Promise<number[]> {
  const { kernels, sources } = await opened(photo)
  const engine = new Engine(kernels, sources, () => new Promise((r) => setImmediate(r)), 512 * MB)
  let told: ((m: FromEngine) => void) | null = null
  const host = new EngineHost(engine, (m) => told?.(m))
  const seen: number[] = []
  for (let i = 0; i < 24; i++) {
    const a = artworkFromPhoto(facts(photo))
    a.layers[0]!.chain = [newStep('gaussian-blur', { sigma: { value: 2, unit: 'px' } }, 'blur'), newStep('levels', { midtone: 0.6 + i / 40 }, 'levels')]
    const artwork = inPanels(a, 4)
    artwork.colourways = artwork.colourways.map((c, k) => ({ ...c, id: `c${k}` }))
    ;(artwork.layers[1]!.source as { colourways: string[] }).colourways = artwork.colourways.map((c) => c.id)
    host.receive({ type: 'artwork', artwork, version: i + 1 })
    const started = performance.now()
    await new Promise<void>((done, fail) => {
      told = (m) => {
        if (m.type === 'failed') fail(new Error(m.message))
        if (m.type === 'level-done' && m.level === 3) seen.push(performance.now() - started)
        if (m.type === 'level-done' && m.level === 2) done()
      }
      host.receive({ type: 'view', id: i + 1, slot: 'main', target: { type: 'artwork' }, region: artwork.sheet, levels: [3, 2] })
    })
  }
  return seen.slice(4)
}

export async function measureSheets(photos: string): Promise<{ text: string; bars: Bar[] }> {
  const photo = await mosaic(photos, 6)
  const alone = await times(photo, () => graphiteRecipe(facts(photo)))
  const panels = await times(photo, () => inPanels(graphiteRecipe(facts(photo)), 4))
  const drag = await dragged(photo)
  const small = await mosaic(photos, 2)
  // A2 is 594 mm long (ISO 216): 7016 pixels at 300 an inch
  const large = await times(small, () => perform(graphiteRecipe(facts(small)), { type: 'resize-artwork', width: 7016, planes: [] }).artwork)
  const s = (v: number) => `${v.toFixed(2)} s`
  const text = [
    '| two threads | first picture at 1/4 | render | kernel memory |',
    '| --- | ---: | ---: | ---: |',
    `| Graphite, 6 megapixels | ${s(alone.first)} | ${s(alone.render)} | ${alone.memory.toFixed(0)} MiB |`,
    `| 4 × 4 panels of it, each in another hue | ${s(panels.first)} | ${s(panels.render)} | ${panels.memory.toFixed(0)} MiB |`,
    `| Graphite, 2 megapixels as an A2 print, 300 ppi | ${s(large.first)} | ${s(large.render)} | ${large.memory.toFixed(0)} MiB |`,
    '',
    `A value of the picture dragged, in 4 × 4 panels: coarse after ${median(drag).toFixed(0)} ms (median), ${percentile(drag, 0.95).toFixed(0)} ms (95th percentile).`,
  ].join('\n')
  console.log(text)
  const bars: Bar[] = [
    {
      what: 'panels of Graphite: first picture to one Graphite alone',
      bar: '≤ 1.5',
      measured: (panels.first / alone.first).toFixed(2),
      met: panels.first <= 1.5 * alone.first,
    },
    {
      what: 'panels of Graphite: render to one Graphite alone',
      bar: '≤ 1.5',
      measured: (panels.render / alone.render).toFixed(2),
      met: panels.render <= 1.5 * alone.render,
    },
    { what: 'a change seen in all panels, coarse, median', bar: '≤ 40 ms', measured: `${median(drag).toFixed(0)} ms`, met: median(drag) <= 40 },
    {
      what: 'a change seen in all panels, coarse, 95th percentile',
      bar: '≤ 100 ms',
      measured: `${percentile(drag, 0.95).toFixed(0)} ms`,
      met: percentile(drag, 0.95) <= 100,
    },
  ]
  return { text, bars }
}
