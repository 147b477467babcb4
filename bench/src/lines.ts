import { artworkFromPhoto, Engine, EngineHost, GraphCompiler, newStep, renderStrips, type Artwork, type FromEngine } from '@nimble-quill/core'
import { loadKernels } from '@nimble-quill/core/node'
import { MemorySources } from '@nimble-quill/core/testing'
import { median, percentile, type Bar } from './measure.ts'
import { mosaic, type Picture } from './picture.ts'

// What techniques made of lines cost: the study of a photo, the plan of each, a picture at the next finer level, a render; and a value under the hand.

const ASSET = '0'.repeat(64)
const MB = 2 ** 20

async function opened(photo: Picture) {
  const kernels = await loadKernels(2 ** 30, 2)
  const sources = new MemorySources()
  await sources.add(kernels, ASSET, { width: photo.width, height: photo.height, channels: 3, depth: 8 }, photo.pixels)
  const engine = new Engine(kernels, sources, () => new Promise((r) => setImmediate(r)), 512 * MB)
  const told: { now: ((m: FromEngine) => void) | null } = { now: null }
  return { kernels, engine, told, host: new EngineHost(engine, (m) => told.now?.(m)) }
}

function made(photo: Picture, id: string, params: Record<string, unknown> = {}): Artwork {
  const a = artworkFromPhoto({ asset: ASSET, width: photo.width, height: photo.height, title: 'bench' })
  a.layers[0]!.chain = [newStep(id, params, 'it')]
  return a
}

export interface Line {
  id: string
  /** Seconds to a coarse picture by an engine that knows nothing, and by one that has the study; of a whole render with the plan there. */
  cold: number
  warm: number
  render: number
  /** Milliseconds until a coarse picture follows a value that plans, and one that only draws. */
  planned: number[]
  drawn: number[]
}

const greyer = (i: number) => {
  const grey = (0x20 + 4 * i).toString(16)
  return { ink: `#${grey}${grey}${grey}` }
}

/** @param turning a value that plans, by how far it is turned; @param drawing one that only draws */
export async function measured(
  photo: Picture,
  id: string,
  turning: (i: number) => Record<string, unknown>,
  drawing: (i: number) => Record<string, unknown> = greyer,
  turns = 12,
): Promise<Line> {
  const { kernels, engine, told, host } = await opened(photo)
  let version = 0
  const shown = async (artwork: Artwork, levels: number[]) => {
    version++
    host.receive({ type: 'artwork', artwork, version })
    const started = performance.now()
    let first = 0
    await new Promise<void>((done, fail) => {
      told.now = (m) => {
        if (m.type === 'failed') fail(new Error(m.message))
        if (m.type === 'level-done' && m.level === levels[0] && !first) first = performance.now() - started
        if (m.type === 'level-done' && m.level === levels.at(-1)) done()
      }
      host.receive({ type: 'view', id: version, slot: 'main', target: { type: 'artwork' }, region: artwork.sheet, levels })
    })
    return first
  }
  const cold: number[] = []
  const warm: number[] = []
  const render: number[] = []
  const viewed = async (of: Engine, artwork: Artwork) => {
    const node = new GraphCompiler(artwork, kernels.hash).compile({ type: 'artwork' })
    const started = performance.now()
    await of.view({ node, level: 2, region: { x: 0, y: 0, w: Math.ceil(photo.width / 4), h: Math.ceil(photo.height / 4) } }, () => undefined, { quick: true })
    return (performance.now() - started) / 1000
  }
  for (let i = 0; i < 3; i++) {
    cold.push(await viewed((await opened(photo)).engine, made(photo, id)))
    await viewed(engine, made(photo, id))
    // another plan over the same study, nothing lent
    const other = made(photo, id, turning(40 + i))
    const node = new GraphCompiler(other, kernels.hash).compile({ type: 'artwork' })
    let started = performance.now()
    await engine.view({ node, level: 2, region: { x: 0, y: 0, w: Math.ceil(photo.width / 4), h: Math.ceil(photo.height / 4) } }, () => undefined, {
      quick: true,
    })
    warm.push((performance.now() - started) / 1000)
    started = performance.now()
    await renderStrips(engine, node, 0, { x: 0, y: 0, w: photo.width, h: photo.height }, () => undefined)
    render.push((performance.now() - started) / 1000)
  }
  const planned: number[] = []
  const drawn: number[] = []
  for (let i = 0; i < turns; i++) {
    planned.push(await shown(made(photo, id, turning(i)), [3, 2]))
    drawn.push(await shown(made(photo, id, { ...turning(i), ...drawing(i) }), [3, 2]))
  }
  return { id, cold: median(cold), warm: median(warm), render: median(render), planned: planned.slice(2), drawn: drawn.slice(2) }
}

const s = (v: number) => `${v.toFixed(2)} s`

export const linesTable = (lines: readonly Line[]): string =>
  [
    '| 6 megapixels, two threads | from nothing to a picture at 1/4 | with the study there | render | a value that plans, at 1/8 | one that only draws |',
    '| --- | ---: | ---: | ---: | ---: | ---: |',
    ...lines.map(
      (l) =>
        `| ${l.id} | ${s(l.cold)} | ${s(l.warm)} | ${s(l.render)} | ${median(l.planned).toFixed(0)} / ${percentile(l.planned, 0.95).toFixed(0)} ms | ${median(l.drawn).toFixed(0)} / ${percentile(l.drawn, 0.95).toFixed(0)} ms |`,
    ),
    '',
    'Under the hand: median / 95th percentile until a coarse picture is there; while a plan is laid the last one is drawn.',
  ].join('\n')

export async function measureLines(photos: string): Promise<{ text: string; bars: Bar[] }> {
  const photo = await mosaic(photos, 6)
  const lines = [
    await measured(photo, 'hatching', (i) => ({ direction: i })),
    await measured(photo, 'contours', (i) => ({ faintest: 24 + i / 4 })),
    await measured(photo, 'ink-lines', (i) => ({ lines: 0.6 + i / 200 })),
  ]
  const text = linesTable(lines)
  console.log(text)
  const [hatching, contours, ink] = lines as [Line, Line, Line]
  const study = Math.max(...lines.map((l) => l.cold - l.warm))
  const hand = Math.max(...lines.flatMap((l) => [percentile(l.planned, 0.95), percentile(l.drawn, 0.95)]))
  const bars: Bar[] = [
    { what: 'study of 6 megapixels, with reading them', bar: '≤ 1.5 s', measured: s(study), met: study <= 1.5 },
    { what: 'hatching planned and drawn', bar: '≤ 5 s', measured: s(hatching.warm), met: hatching.warm <= 5 },
    { what: 'contours, from nothing', bar: '≤ 3 s', measured: s(contours.cold), met: contours.cold <= 3 },
    { what: 'ink lines, from nothing', bar: '≤ 3 s', measured: s(ink.cold), met: ink.cold <= 3 },
    { what: 'under the hand, 95th percentile', bar: '≤ 100 ms', measured: `${hand.toFixed(0)} ms`, met: hand <= 100 },
  ]
  return { text, bars }
}
