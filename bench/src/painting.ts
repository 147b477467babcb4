import { createHash } from 'node:crypto'
import { promisify } from 'node:util'
import { deflate } from 'node:zlib'
import {
  artworkFromPhoto,
  defaultBrush,
  emptyPlane,
  Engine,
  EngineHost,
  indexOf,
  locate,
  newLayer,
  newMask,
  newStep,
  packPart,
  PLANE_TILE,
  tileBytes,
  withEntries,
  type Artwork,
  type FromEngine,
  type PaintView,
  type PlaneAddress,
  type PlaneRef,
  type Region,
  type Sized,
  type ToEngine,
} from '@nimble-quill/core'
import { loadKernels } from '@nimble-quill/core/node'
import { MemorySources } from '@nimble-quill/core/testing'
import { median, percentile, type Bar } from './measure.ts'
import { mosaic } from './picture.ts'

// What a stroke costs: from the pen to the pixels under it, and from its lift to the settled picture; what undo keeps.

const ASSET = '0'.repeat(64)
const px = (value: number) => ({ value, unit: 'px' as const })
const AT: PlaneAddress = { layer: 'top', step: null, part: 'mask' }
/** Samples a second, as a pen gives them; told as a page tells them, at each frame. */
const HERTZ = 240
const FRAMES = 60

const six = () => [
  newStep('levels', { midtone: 1.1 }),
  newStep('gaussian-blur', { sigma: px(2) }),
  newStep('hue-saturation', { hue: 10 }),
  newStep('unsharp-mask'),
  newStep('median', { radius: px(2) }),
  newStep('curves'),
]

/** A photo, over it the same inverted by a mask, over both so many steps of what lies below. */
function artworkOf(width: number, height: number, chain: ReturnType<typeof newStep>[]): Artwork {
  const a = artworkFromPhoto({ asset: ASSET, width, height, title: 'bench' })
  const { source } = a.layers[0]!
  a.layers.push({ ...newLayer('Top', source, [newStep('invert')], 'top'), mask: newMask('empty') })
  if (chain.length) a.layers.push(newLayer('All', { type: 'below' }, chain, 'all'))
  return a
}

/** A stroke that wanders for two seconds, as whole numbers by frames. */
function stroke(region: Region, seconds = 2): number[][] {
  const frames: number[][] = []
  for (let f = 0; f < seconds * FRAMES; f++) {
    const numbers: number[] = []
    for (let i = 0; i < HERTZ / FRAMES; i++) {
      const t = (f * (HERTZ / FRAMES) + i) / HERTZ
      const x = region.x + region.w * (0.5 + 0.35 * Math.sin(t * 2.3))
      const y = region.y + region.h * (0.5 + 0.35 * Math.sin(t * 3.1 + 1))
      numbers.push(Math.round(x * 64), Math.round(y * 64), Math.round(t * 1000), Math.round((0.6 + 0.3 * Math.sin(t * 5)) * 1023), 0, 0)
    }
    frames.push(numbers)
  }
  return frames
}

class Page {
  readonly sources = new MemorySources()
  private host!: EngineHost
  private readonly wake: (() => void)[] = []
  private readonly said: FromEngine[] = []
  private id = 100
  artwork!: Artwork
  engine!: Engine

  async open(artwork: Artwork, pixels: Buffer, threads: number): Promise<void> {
    const kernels = await loadKernels(2 ** 30, threads)
    const { width, height } = artwork.layers[0]!.source as { width: number; height: number }
    await this.sources.add(kernels, ASSET, { width, height, channels: 3, depth: 8 }, pixels)
    this.engine = new Engine(kernels, this.sources, () => new Promise((r) => setImmediate(r)), 512 * 2 ** 20)
    this.host = new EngineHost(
      this.engine,
      (m) => {
        if (m.type === 'failed') throw new Error(m.message)
        if (m.type === 'painted') for (const b of m.blobs) this.sources.blobs.set(b.name, b.bytes)
        this.said.push(m)
        for (const w of this.wake.splice(0)) w()
      },
      async (bytes) => createHash('sha256').update(bytes).digest('hex'),
    )
    this.set(artwork)
  }

  set(artwork: Artwork): void {
    this.artwork = artwork
    this.host.receive({ type: 'artwork', artwork, version: ++this.id })
  }

  /** Asks and waits for an answer of a kind. */
  async ask(m: ToEngine & { id: number }, answer: (x: FromEngine) => boolean): Promise<FromEngine> {
    this.said.length = 0
    this.host.receive(m)
    for (;;) {
      const found = this.said.find(answer)
      if (found) return found
      await new Promise<void>((r) => this.wake.push(r))
    }
  }

  async settle(view: PaintView): Promise<number> {
    const started = performance.now()
    const id = ++this.id
    await this.ask({ type: 'settle', id, slot: 'main', ...view }, (m) => m.type === 'settled' && m.id === id && m.share === 1)
    return performance.now() - started
  }

  /** Milliseconds to the picture of a level, as under a moving hand. */
  async first({ target, region, level }: PaintView): Promise<number> {
    const started = performance.now()
    const id = ++this.id
    await this.ask({ type: 'view', id, slot: 'main', target, region, levels: [level, level - 1] }, (m) => m.type === 'level-done' && m.id === id)
    return performance.now() - started
  }

  async ready(view: PaintView): Promise<void> {
    const id = ++this.id
    await this.ask({ type: 'paint-ready', id, at: AT, view }, (m) => m.type === 'paint-is-ready' && m.id === id)
  }

  /** Paints by frames at the pace of a screen; the milliseconds from each frame's samples to the last pixels of what they changed. */
  async paint(view: PaintView, brush: Sized, frames: number[][]): Promise<{ lags: number[]; plane: PlaneRef; lift: number }> {
    const id = ++this.id
    this.host.receive({ type: 'stroke', id, order: { at: AT, brush, symmetry: { type: 'none' }, laying: { type: 'grey', value: 65535 } }, view })
    const lags: number[] = []
    let next = performance.now()
    for (const numbers of frames) {
      this.said.length = 0
      const told = performance.now()
      this.host.receive({ type: 'stroke-goes', id, samples: Int32Array.from(numbers) })
      // until nothing of it is being worked on any more
      let last = told
      while (this.host.working) {
        await new Promise((r) => setImmediate(r))
        last = performance.now()
      }
      if (this.said.some((m) => m.type === 'tile')) lags.push(last - told)
      next += 1000 / FRAMES
      if (next > performance.now()) await new Promise((r) => setTimeout(r, next - performance.now()))
    }
    const lifted = performance.now()
    const painted = (await this.ask({ type: 'stroke-ends', id } as ToEngine & { id: number }, (m) => m.type === 'painted')) as FromEngine & { type: 'painted' }
    return { lags, plane: painted.plane, lift: performance.now() - lifted }
  }

  /** What a page does with it. */
  take(plane: PlaneRef): void {
    const a = structuredClone(this.artwork)
    locate(a.layers, 'top').layer.mask!.plane = plane
    this.set(a)
  }
}

/** Two hundred strokes one after the other: what of them is kept where. */
async function measureUndo(width: number, height: number, pixels: Buffer, brush: Sized): Promise<{ disk: number; held: number; tiles: number }> {
  const page = new Page()
  await page.open(artworkOf(width, height, []), pixels, 2)
  const view: PaintView = { target: { type: 'artwork' }, region: page.artwork.sheet, level: 3 }
  const kept = new Set<string>()
  let disk = 0
  for (let i = 0; i < 200; i++) {
    const [x, y] = [((i * 977) % 1000) / 1000, ((i * 613) % 1000) / 1000]
    const part = { x: Math.round(x * width * 0.5), y: Math.round(y * height * 0.5), w: Math.round(width * 0.5), h: Math.round(height * 0.5) }
    const { plane } = await page.paint(view, brush, [stroke(part, 0.5).flat()])
    page.take(plane)
    for (const [name, bytes] of page.sources.blobs) {
      if (kept.has(name)) continue
      kept.add(name)
      disk += (await deflated(packPart(bytes))).length
    }
  }
  const mb = 2 ** 20
  return { disk: disk / 1e6, held: page.engine.kernels.allocator.bytesInUse / mb, tiles: page.engine.planeBytes / mb }
}

const deflated = promisify(deflate) as (bytes: Uint8Array) => Promise<Buffer>

const tileCount = ({ w, h }: Region) => Math.ceil(w / PLANE_TILE) * Math.ceil(h / PLANE_TILE)

/**
 * Milliseconds from opening an artwork with five layers of paint, no tile of which is like another, to its first coarse picture: where its parts come
 * from the server and are checked, where this browser has them, and where it has shown them before.
 */
async function openFivePlanes(width: number, height: number, pixels: Buffer): Promise<{ sent: number; never: number; again: number }> {
  const halves = new Map<string, Uint8Array>()
  return {
    sent: await openOnce(width, height, pixels, new Map(), false),
    never: await openOnce(width, height, pixels, halves, true),
    again: await openOnce(width, height, pixels, halves, true),
  }
}

async function openOnce(width: number, height: number, pixels: Buffer, halves: Map<string, Uint8Array>, guards: boolean): Promise<number> {
  const page = new Page()
  page.sources.guards = guards
  page.sources.halves = halves
  const artwork = artworkOf(width, height, [])
  for (let n = 0; n < 5; n++) {
    const changes: { tx: number; ty: number; entry: string }[] = []
    for (let ty = 0; ty * PLANE_TILE < height; ty++) {
      for (let tx = 0; tx * PLANE_TILE < width; tx++) {
        const bytes = new Uint8Array(tileBytes(4)).fill(100 + n)
        bytes.set([tx, ty, n], 0)
        const name = createHash('sha256').update(bytes).digest('hex')
        page.sources.blobs.set(name, bytes)
        changes.push({ tx, ty, entry: name })
      }
    }
    const { root, pages } = indexOf(withEntries(emptyPlane(4), changes))
    for (const { name, bytes } of [root, ...pages]) page.sources.blobs.set(name, bytes)
    artwork.layers.push(newLayer(`Paint ${n}`, { type: 'paint', plane: { index: root.name, channels: 4 } }, [], `paint${n}`))
  }
  await page.open(artwork, pixels, 2)
  return page.first({ target: { type: 'artwork' }, region: artwork.sheet, level: 3 })
}

export async function measurePainting(photos: string): Promise<{ text: string; bars: Bar[] }> {
  const bars: Bar[] = []
  const large = await mosaic(photos, 24)
  const sheet = { x: 0, y: 0, w: large.width, h: large.height }
  const brush: Sized = { ...defaultBrush, tip: 'soft', breadth: 450, cover: 0.2, edge: 0.3 }
  const lines = [
    '| a brush of 450 px over 24 megapixels | shown after, ms (median) | ms (95th percentile) | named after the lift, ms | settled after that, ms |',
    '| --- | ---: | ---: | ---: | ---: |',
  ]
  const views: [string, PaintView][] = [
    ['the whole sheet in sight', { target: { type: 'artwork' }, region: sheet, level: 2 }],
    ['at 100 %', { target: { type: 'artwork' }, region: { x: 2400, y: 1600, w: 1000, h: 640 }, level: 0 }],
  ]
  for (const [what, chain] of [
    ['under nothing', []],
    ['under six steps', six()],
  ] as const) {
    const page = new Page()
    await page.open(artworkOf(large.width, large.height, [...chain]), large.pixels, 2)
    for (const [seen, view] of views) {
      await page.settle(view)
      await page.ready(view)
      const { lags, plane, lift } = await page.paint(view, brush, stroke(view.region))
      page.take(plane)
      const settled = await page.settle(view)
      const [middle, late] = [median(lags), percentile(lags, 0.95)]
      console.log(`  ${what}, ${seen}: ${middle.toFixed(1)} / ${late.toFixed(1)} ms, named ${lift.toFixed(0)}, settled ${settled.toFixed(0)}`)
      lines.push(`| ${what}, ${seen} | ${middle.toFixed(1)} | ${late.toFixed(1)} | ${lift.toFixed(0)} | ${settled.toFixed(0)} |`)
      if (chain.length) {
        bars.push({ what: `under six steps, ${seen}: true pixels, median`, bar: '≤ 40 ms', measured: `${middle.toFixed(1)} ms`, met: middle <= 40 })
        bars.push({ what: `under six steps, ${seen}: true pixels, 95th percentile`, bar: '≤ 100 ms', measured: `${late.toFixed(1)} ms`, met: late <= 100 })
        bars.push({
          what: `under six steps, ${seen}: settled after the lift`,
          bar: '≤ 1000 ms',
          measured: `${(lift + settled).toFixed(0)} ms`,
          met: lift + settled <= 1000,
        })
      }
    }
    page.engine.clear()
  }
  const undo = await measureUndo(large.width, large.height, large.pixels, brush)
  lines.push(
    '',
    `Undo of 200 strokes of half a second with that brush: ${undo.disk.toFixed(0)} MB of parts to keep, deflated; ${undo.held.toFixed(0)} MB of kernel memory in use after them, ` +
      `of which kept tiles of planes ${undo.tiles.toFixed(0)} MB.`,
  )
  bars.push({ what: 'undo of 200 large strokes: tiles held', bar: '≤ 128 MB', measured: `${undo.tiles.toFixed(0)} MB`, met: undo.tiles <= 128 })
  bars.push({ what: 'undo of 200 large strokes: on disk', bar: '≤ 1000 MB', measured: `${undo.disk.toFixed(0)} MB`, met: undo.disk <= 1000 })
  const opened = await openFivePlanes(large.width, large.height, large.pixels)
  const { sent, never, again } = opened
  const told = `${sent.toFixed(0)} ms after it is opened where its parts come from the server and are checked, ${never.toFixed(0)} ms where this browser has them, ${again.toFixed(0)} ms where it has shown it before`
  console.log(`  five full layers of paint: first picture ${told}`)
  lines.push(
    '',
    `An artwork of 24 megapixels with five full layers of paint (${5 * tileCount(sheet)} tiles of half a megabyte, in memory): first picture, at 1/8, ${told}.`,
  )
  for (const [how, ms] of [
    ['parts checked', sent],
    ['parts of this browser', never],
    ['shown before', again],
  ] as const)
    bars.push({ what: `five full layers of paint, ${how}: first picture`, bar: '≤ 1500 ms', measured: `${ms.toFixed(0)} ms`, met: ms <= 1500 })
  console.log(lines.join('\n'))
  return { text: lines.join('\n'), bars }
}
