import { artworkFromPhoto } from '../artwork/load.ts'
import { instantiate } from '../artwork/recipe.ts'
import { newLayer, newStep } from '../artwork/layers.ts'
import { recipeById } from '../recipes/registry.ts'
import { loadKernels } from '../kernels/load-node.ts'
import { MemorySources } from '../testing/memory-source.ts'
import { compute, newTestEngine, testPicture } from '../testing/pictures.ts'
import { suitabilityOf } from '../study/suitability.ts'
import { GraphCompiler } from './graph.ts'
import { EngineHost, type FromEngine } from './host.ts'

const asset = 'a'.repeat(64)
const [W, H] = [531, 397]

async function hosted(timed?: (dear: boolean) => number) {
  const kernels = await loadKernels()
  const sources = new MemorySources()
  await sources.add(kernels, asset, { width: W, height: H, channels: 4, depth: 8 }, testPicture(W, H, 4))
  const engine = newTestEngine(kernels, sources)
  const said: FromEngine[] = []
  const wake: (() => void)[] = []
  // milliseconds by the work that was done, so that no busy machine says otherwise
  let ms = 0
  if (timed) engine.onRun = (stage) => (ms += timed(stage.dear))
  const host = new EngineHost(
    engine,
    (m) => {
      said.push(m)
      for (const w of wake.splice(0)) w()
    },
    undefined,
    ...(timed ? [() => ms] : []),
  )
  /** Waits for a message of a kind. */
  const heard = async <K extends FromEngine['type']>(type: K, id: number): Promise<FromEngine & { type: K }> => {
    for (;;) {
      const m = said.find((x) => x.type === type && 'id' in x && x.id === id)
      if (m) return m as FromEngine & { type: K }
      await new Promise<void>((r) => wake.push(r))
    }
  }
  const base = artworkFromPhoto({ asset, width: W, height: H, title: 't' })
  const { layers, use } = instantiate(recipeById('graphite'), base.layers[0]!.source)
  const artwork = { ...base, layers, recipes: [use] }
  host.receive({ type: 'artwork', artwork, version: 1 })
  return { kernels, sources, host, said, heard, artwork, base }
}
const whole = { x: 0, y: 0, w: W, h: H }

test('a view comes coarse first, then fine', async () => {
  const { host, said, heard } = await hosted()
  host.receive({ type: 'view', id: 1, slot: 'main', target: { type: 'artwork' }, region: whole, levels: [1, 0] })
  await heard('level-done', 1)
  while (said.filter((m) => m.type === 'level-done').length < 2) await new Promise((r) => setTimeout(r, 5))
  // how far a plan is, is told before the first tile that waits for it
  const shown = said.map((m) => (m.type === 'tile' || m.type === 'level-done' ? `${m.type} ${m.level}` : m.type))
  expect(shown.lastIndexOf('planning')).toBeLessThan(shown.indexOf('tile 1'))
  expect(shown.filter((m) => m !== 'planning')).toEqual(['tile 1', 'level-done 1', 'tile 0', 'level-done 0'])
})

test('what cannot be shown coarser than at full size, and would take long, is shown roughly until it settles', async () => {
  const { host, said, base } = await hosted((dear) => (dear ? 60 : 0.1))
  const last = async (id: number, chain: ReturnType<typeof newStep>[], levels: number[]) => {
    host.receive({ type: 'artwork', artwork: { ...base, layers: [{ ...base.layers[0]!, chain }] }, version: id })
    host.receive({ type: 'view', id, slot: 'main', target: { type: 'artwork' }, region: whole, levels })
    for (;;) {
      const done = said.find((m) => m.type === 'level-done' && m.id === id && m.level === levels.at(-1))
      if (done?.type === 'level-done') return done.rough
      await new Promise((r) => setTimeout(r, 5))
    }
  }
  const dear = Array.from({ length: 10 }, (_, i) => newStep('kuwahara', { reach: { value: 9 + i / 10, unit: 'px' } }))
  expect(await last(1, [newStep('threshold')], [2, 1])).toBe(false)
  expect(await last(2, dear, [2, 1])).toBe(true)
  // at full size nothing is rough, however long it takes; and what can be shown coarser is not either
  expect(await last(3, [newStep('threshold')], [1, 0])).toBe(false)
  expect(await last(4, [newStep('gaussian-blur', { sigma: { value: 30, unit: 'px' } })], [2, 1])).toBe(false)
})

test('settled is the exact full-size result, reduced by means', async () => {
  const { kernels, sources, host, said, artwork } = await hosted()
  for (const level of [1, 2, 3]) {
    said.length = 0
    host.receive({ type: 'settle', id: level, slot: 'main', target: { type: 'artwork' }, region: whole, level })
    while (!said.some((m) => m.type === 'settled' && m.share === 1)) await new Promise((r) => setTimeout(r, 5))
    const full = await compute(newTestEngine(kernels, sources), artwork)
    // the oracle: float64 premultiplied means, rounded to 16 bits at each halving as the levels of photos are
    let { pixels, region } = full
    for (let l = 0; l < level; l++) {
      const w = Math.ceil(region.w / 2)
      const h = Math.ceil(region.h / 2)
      const out = new Uint16Array(w * h * 4)
      for (let y = 0; y < h; y++) {
        for (let x = 0; x < w; x++) {
          const sum = [0, 0, 0, 0]
          for (const [i, j] of [
            [0, 0],
            [1, 0],
            [0, 1],
            [1, 1],
          ] as const) {
            const p = (Math.min(region.h - 1, y * 2 + j) * region.w + Math.min(region.w - 1, x * 2 + i)) * 4
            for (let c = 0; c < 3; c++) sum[c]! += pixels[p + c]! * pixels[p + 3]!
            sum[3]! += pixels[p + 3]!
          }
          for (let c = 0; c < 3; c++) out[(y * w + x) * 4 + c] = sum[3] === 0 ? 0 : Math.round(sum[c]! / sum[3]!)
          out[(y * w + x) * 4 + 3] = Math.round(sum[3]! / 4)
        }
      }
      pixels = out
      region = { x: 0, y: 0, w, h }
    }
    let covered = 0
    let worst = 0
    for (const m of said) {
      if (m.type !== 'tile') continue
      const got = new Uint8Array(m.pixels)
      covered += m.region.w * m.region.h
      for (let i = 0; i < got.length; i++) {
        const [x, y] = [m.region.x + (Math.floor(i / 4) % m.region.w), m.region.y + Math.floor(i / 4 / m.region.w)]
        const alpha = pixels[(y * region.w + x) * 4 + 3]!
        worst = Math.max(worst, Math.abs(got[i]! - pixels[(y * region.w + x) * 4 + (i % 4)]! / 257) * Math.min(1, alpha / 6000))
      }
    }
    expect(covered).toBe(region.w * region.h)
    // half a step of the 8 bits shown, and a little of float32
    expect(worst).toBeLessThan(0.52)
  }
})

test('a view that was seen with what lies beyond the sheet is the same picture when it is seen without', async () => {
  const { host, said, heard } = await hosted()
  const target = { type: 'artwork' } as const
  const tiles = (id: number) => said.flatMap((m) => (m.type === 'tile' && m.id === id ? [m] : []))
  host.receive({ type: 'view', id: 1, slot: 'main', target, region: { x: -40, y: -30, w: W + 80, h: H + 60 }, levels: [0], beyond: true })
  await heard('level-done', 1)
  host.receive({ type: 'view', id: 2, slot: 'main', target, region: whole, levels: [0] })
  await heard('level-done', 2)
  const cold = await hosted()
  cold.host.receive({ type: 'view', id: 1, slot: 'main', target, region: whole, levels: [0] })
  await cold.heard('level-done', 1)
  /** The pixels of the sheet, from tiles however they are cut. */
  const sheet = (parts: readonly { region: { x: number; y: number; w: number; h: number }; pixels: ArrayBuffer }[]) => {
    const out = new Uint32Array(W * H)
    for (const { region: r, pixels } of parts) {
      const p = new Uint32Array(pixels)
      for (let y = Math.max(0, r.y); y < Math.min(H, r.y + r.h); y++)
        for (let x = Math.max(0, r.x); x < Math.min(W, r.x + r.w); x++) out[y * W + x] = p[(y - r.y) * r.w + x - r.x]!
    }
    return out
  }
  const wanted = sheet(cold.said.flatMap((m) => (m.type === 'tile' ? [m] : [])))
  for (const id of [1, 2]) expect(sheet(tiles(id)).filter((v, i) => v !== wanted[i])).toHaveLength(0)
})

test('a newer view drops an older one and its settling; small pictures wait for views', async () => {
  const { host, said, heard, artwork, base } = await hosted()
  host.receive({ type: 'view', id: 1, slot: 'main', target: { type: 'artwork' }, region: whole, levels: [0] })
  host.receive({ type: 'picture', id: 2, target: { type: 'photo' }, side: 40 })
  host.receive({ type: 'settle', id: 3, slot: 'main', target: { type: 'artwork' }, region: whole, level: 2 })
  host.receive({ type: 'artwork', artwork: { ...artwork, layers: [{ ...base.layers[0]!, chain: [newStep('invert')] }], recipes: [] }, version: 2 })
  host.receive({ type: 'view', id: 4, slot: 'main', target: { type: 'artwork' }, region: whole, levels: [1] })
  await heard('picture', 2)
  await new Promise((r) => setTimeout(r, 50))
  const ids = said.flatMap((m) => ('id' in m ? [m.id] : []))
  expect(ids).not.toContain(3)
  expect(ids.filter((i) => i === 1).length).toBeLessThan(3)
  expect(ids.indexOf(4)).toBeLessThan(ids.indexOf(2))
  expect(said.find((m) => m.type === 'tile' && m.id === 4)).toMatchObject({ version: 2, level: 1 })
})

test('a failure is told with its name, and the host goes on', async () => {
  const { host, heard, artwork } = await hosted()
  const broken = structuredClone(artwork)
  broken.layers[0]!.chain[0]!.step = 'sparkle'
  host.receive({ type: 'picture', id: 1, artwork: broken, target: { type: 'artwork' }, side: 40 })
  expect(await heard('failed', 1)).toMatchObject({ code: 'unknown-step' })
  host.receive({ type: 'picture', id: 2, target: { type: 'chain', layer: artwork.layers[0]!.id, steps: 1 }, side: 100, spot: { w: 30, h: 20 } })
  expect(await heard('picture', 2)).toMatchObject({ w: 30, h: 20 })
})

test('offers that are planned wait until the picture has settled, and make way for a view; they come all the same', async () => {
  const { host, said, heard, base } = await hosted()
  const offered = { ...base, layers: [{ ...base.layers[0]!, chain: [newStep('hatching')] }] }
  const target = { type: 'artwork' } as const
  host.receive({ type: 'picture', id: 1, artwork: offered, target, side: 64 })
  host.receive({ type: 'picture', id: 2, artwork: { ...offered, title: 'another' }, target, side: 64 })
  host.receive({ type: 'settle', id: 3, slot: 'main', target, region: whole, level: 0 })
  await heard('picture', 1)
  const order = () =>
    said.flatMap((m) => (m.type === 'picture' || m.type === 'level-done' || (m.type === 'settled' && m.share === 1) ? [`${m.type} ${m.id}`] : []))
  expect(order()).toEqual(['settled 3', 'picture 1'])
  await heard('picture', 2)
  // one that is being made
  host.receive({ type: 'picture', id: 4, artwork: { ...offered, layers: [{ ...base.layers[0]!, chain: [newStep('contours')] }] }, target, side: 64 })
  await new Promise((r) => setTimeout(r, 30))
  expect(host.working).toBe(true)
  host.receive({ type: 'view', id: 5, slot: 'main', target, region: whole, levels: [2] })
  await heard('picture', 4)
  expect(order().slice(-2)).toEqual(['level-done 5', 'picture 4'])
  // what is given up while it makes way does not come back
  host.receive({ type: 'picture', id: 6, artwork: { ...offered, layers: [{ ...base.layers[0]!, chain: [newStep('ink-lines')] }] }, target, side: 64 })
  await new Promise((r) => setTimeout(r, 30))
  host.receive({ type: 'view', id: 7, slot: 'main', target, region: whole, levels: [2] })
  host.receive({ type: 'cancel', id: 6 })
  await heard('level-done', 7)
  for (let i = 0; i < 100 && host.working; i++) await new Promise((r) => setTimeout(r, 20))
  expect(said.some((m) => m.type === 'picture' && m.id === 6)).toBe(false)
})

test('how the photo will take techniques is measured on the photo itself, whatever is done to it; without one there is nothing to say', async () => {
  const { host, heard, base, kernels, sources } = await hosted()
  host.receive({ type: 'suit', id: 1 })
  const { found } = await heard('suits', 1)
  const study = await newTestEngine(kernels, sources).study(new GraphCompiler(base, kernels.hash).compile({ type: 'artwork' }))
  expect(found).toEqual(suitabilityOf(study, W, W / base.sheet.ppi))
  // printed twice as large, there are half as many pixels an inch
  host.receive({ type: 'artwork', artwork: { ...base, sheet: { ...base.sheet, ppi: base.sheet.ppi / 2 } }, version: 2 })
  host.receive({ type: 'suit', id: 2 })
  expect((await heard('suits', 2)).found!.density).toBeCloseTo(found!.density / 2, 6)
  host.receive({ type: 'artwork', artwork: { ...base, layers: [newLayer('Fill', { type: 'fill', colour: '#ff0000', alpha: 1 })] }, version: 3 })
  host.receive({ type: 'suit', id: 3 })
  expect((await heard('suits', 3)).found).toBeNull()
})
