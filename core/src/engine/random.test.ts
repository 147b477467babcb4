import { newLayer, newStep } from '../artwork/layers.ts'
import { artworkFromPhoto } from '../artwork/load.ts'
import type { Artwork, Layer, StepUse } from '../artwork/schema.ts'
import { moved, placed, times, turned, type Matrix } from '../base/transform.ts'
import { QuillError } from '../base/errors.ts'
import { blendModes } from '../blend/modes.ts'
import { loadKernels } from '../kernels/load-node.ts'
import type { Kernels } from '../kernels/kernels.ts'
import { steps } from '../steps/registry.ts'
import { MemorySources } from '../testing/memory-source.ts'
import { addOtherPicture, settingsOf } from '../testing/settings.ts'
import { compute, dice, newTestEngine, testPicture } from '../testing/pictures.ts'

// Artworks at random, edited at random, with pictures given up and work cancelled in between: an engine that has been through all that
// makes the same bits as one that has just been started.

const asset = 'd'.repeat(64)
const [W, H] = [201, 143]
let kernels: Kernels
let sources: MemorySources
beforeAll(async () => {
  kernels = await loadKernels()
  sources = new MemorySources()
  await sources.add(kernels, asset, { width: W, height: H, channels: 4, depth: 8 }, testPicture(W, H, 4))
  await addOtherPicture(kernels, sources)
})

const cheap = steps.filter((s) => !['kuwahara', 'edge-smooth', 'hatching', 'ink-lines'].includes(s.id))

function artworkOf(next: () => number): Artwork {
  const pick = <T>(list: readonly T[]): T => list[Math.floor(next() * list.length)]!
  const often = (p: number) => next() < p
  const span = () => (often(0.3) ? { low: next() * 0.5, high: 0.5 + next() * 0.5, softLow: 0.1, softHigh: 0.2 } : null)
  const use = (): StepUse => {
    const step = pick(cheap)
    const [, params] = pick(settingsOf(step, 3, 40))
    return { ...newStep(step.id, params), on: often(0.9), opacity: often(0.5) ? next() : 1, blend: often(0.3) ? pick(blendModes) : 'normal', span: span() }
  }
  let id = 0
  const made: string[] = []
  const list = (depth: number, n: number): Layer[] =>
    Array.from({ length: n }, (_, i) => {
      const kind = depth < 2 && often(0.25) ? 'group' : i > 0 && often(0.3) ? 'below' : made.length && often(0.4) ? 'live' : often(0.2) ? 'fill' : 'photo'
      const source: Layer['source'] =
        kind === 'group'
          ? { type: 'group', isolated: often(0.5), layers: list(depth + 1, 1 + Math.floor(next() * 3)) }
          : kind === 'live'
            ? { type: 'live', layer: pick(made) }
            : kind === 'fill'
              ? { type: 'fill', colour: '#c08040', alpha: next() }
              : kind === 'below'
                ? { type: 'below' }
                : { type: 'photo', asset, width: W, height: H }
      const layer = { ...newLayer(`L${id}`, source, Array.from({ length: Math.floor(next() * 4) }, use), `l${id++}`) }
      made.push(layer.id)
      const [w, h] = [W / 2, H / 2]
      const laid: Matrix = often(0.3)
        ? times(moved(w, h), times(turned(90 * Math.floor(next() * 4)), moved(-w, -h).map((v) => Math.round(v)) as unknown as Matrix))
        : placed({ x: next() * W, y: next() * H, scaleX: 0.3 + next(), scaleY: 0.3 + next(), angle: next() * 360, slant: 0 }, { x: w, y: h })
      const far: Matrix = often(0.2) ? times([1, 0, 0, 0, 1, 0, (next() - 0.3) / 300, (next() - 0.3) / 300, 1], laid) : laid
      return {
        ...layer,
        ...(often(0.3) ? { placement: { matrix: [...far] as Layer['placement']['matrix'], pivot: null } } : {}),
        opacity: often(0.5) ? next() : 1,
        blend: often(0.4) ? pick(blendModes) : 'normal',
        span: span(),
        spanBelow: span(),
        followsBelow: often(0.3),
        visible: often(0.9),
      }
    })
  return { ...artworkFromPhoto({ asset, width: W, height: H, title: 'random' }), layers: list(0, 1 + Math.floor(next() * 4)) }
}

/** One value of one step changed, or a step taken out. */
function edited(a: Artwork, next: () => number): Artwork {
  const b = structuredClone(a)
  const layer = b.layers[Math.floor(next() * b.layers.length)]!
  const which = next()
  if (layer.chain.length === 0 || which < 0.2) layer.opacity = next()
  else if (which < 0.4) layer.chain.splice(Math.floor(next() * layer.chain.length), 1)
  else layer.chain[Math.floor(next() * layer.chain.length)]!.opacity = next()
  return b
}

test.each(Array.from({ length: 14 }, (_, i) => i))('artwork %d: the bits of a worn engine are those of a new one', async (seed) => {
  const next = dice(900 + seed)
  const worn = newTestEngine(kernels, sources, seed % 2 ? 1_500_000 : 40_000_000)
  let artwork: Artwork
  do artwork = artworkOf(next)
  while (
    await compute(newTestEngine(kernels, sources), artwork, { region: { x: 0, y: 0, w: 1, h: 1 } }).then(
      () => false,
      (e: QuillError) => e.code === 'live-cycle',
    )
  )
  const before: Artwork[] = [artwork]
  for (let edit = 0; edit < 5; edit++) {
    const region = { x: Math.floor(next() * 60), y: Math.floor(next() * 40), w: 60 + Math.floor(next() * 80), h: 40 + Math.floor(next() * 60) }
    const level = Math.floor(next() * 3)
    const small = level ? { x: region.x >> level, y: region.y >> level, w: region.w >> level, h: region.h >> level } : region
    const quick = next() < 0.3
    const how = { level, region: small, quick, piece: [1 << 24, 3000, 900][edit % 3]!, keep: (['view', 'small', 'render'] as const)[Math.floor(next() * 3)]! }
    // given up in the middle, now and then
    if (next() < 0.5) {
      const signal = { cancelled: false }
      let left = Math.floor(next() * 8)
      worn.onRun = () => (signal.cancelled = left-- <= 0)
      await compute(worn, artwork, { ...how, signal }).catch((e: QuillError) => expect(e.code).toBe('cancelled'))
      worn.onRun = null
    }
    for (let i = Math.floor(next() * 4); i > 0; i--) worn.store.evictOne()
    const got = await compute(worn, artwork, how)
    const fresh = newTestEngine(kernels, sources)
    const want = await compute(fresh, artwork, { level, region: small, quick })
    fresh.clear()
    expect(Buffer.compare(Buffer.from(got.pixels.buffer), Buffer.from(want.pixels.buffer))).toBe(0)
    // on, or back
    artwork = next() < 0.3 ? before[Math.floor(next() * before.length)]! : edited(artwork, next)
    before.push(artwork)
  }
  worn.clear()
})
