import { GraphCompiler, newStep, QuillError, renderStrips, steps, type AnyStep } from '@nimble-quill/core'
import { loadKernels } from '@nimble-quill/core/node'
import { MemorySources } from '@nimble-quill/core/testing'
import { eightSteps } from '@nimble-quill/core/testing/chains'
import { newEngine } from '@nimble-quill/server/rendering'
import { median, type Bar } from './measure.ts'
import type { Picture } from './picture.ts'

const ASSET = '0'.repeat(64)

export interface StepRow {
  step: AnyStep
  /** Milliseconds of a whole picture on two threads, without reading the photo. */
  ms: number
  /** How long after it was to be told to stop it stopped at the latest, milliseconds; null where it was done sooner. */
  stops: number | null
  /** Milliseconds of the picture under the hand, at a quarter of the size and on one thread, as a control moves: median; null of one that lays plans (see `painted.ts`, `lines.ts`). */
  coarse: number | null
  bar: number
}

/** Level of the picture under the hand where the view shows the whole of 6 megapixels. */
const COARSE = 2

/** The most a step may take at 6 megapixels on two threads, milliseconds. */
function barOf(step: AnyStep): number {
  // strokes, washes and sheets are planned in the background
  const planned: Record<string, number> = { wash: 5000, 'flowing-oil': 8000, 'paper-shapes': 3000, contours: 8000 }
  if (planned[step.id]) return planned[step.id]!
  if (laysOut(step) && step.group === 'paint') return 6000
  if (['ink-lines', 'hatching'].includes(step.id)) return 8000
  if (step.id === 'kuwahara') return 8000
  if (step.id === 'edge-smooth') return 3000
  // surfaces, grain and what compares with a palette or its surroundings are more than a function of a pixel
  const more = step.onPaper || ['map-to-palette', 'equalise-locally'].includes(step.id)
  return !more && (step.kind === 'table' || step.kind === 'point') ? 80 : 1500
}

/** Whether a step lays its work out beforehand: under a moving hand its last plan is drawn while the next is laid, which is measured elsewhere. */
const laysOut = (step: AnyStep): boolean => 'lay' in step && step.lay !== undefined

/** Each step at telling values over a whole picture, by strips, on two threads; and how soon it stops. */
export async function measureSteps(p: Picture, chosen: readonly AnyStep[] = steps): Promise<StepRow[]> {
  const kernels = await loadKernels(2 ** 30, 2)
  while (kernels.crew!.threads < 2) await new Promise((r) => setTimeout(r, 10))
  const sources = new MemorySources()
  await sources.add(kernels, ASSET, { width: p.width, height: p.height, channels: 3, depth: 8 }, p.pixels)
  const frame = { x: 0, y: 0, w: p.width, h: p.height }
  const render = async (chain: ReturnType<typeof newStep>[], signal = { cancelled: false }) => {
    const engine = newEngine(kernels, sources)
    const artwork = eightSteps({ asset: ASSET, width: p.width, height: p.height, title: 'bench' })
    artwork.layers[0]!.chain = chain
    const node = new GraphCompiler(artwork, kernels.hash).compile({ type: 'artwork' })
    const t = performance.now()
    try {
      await renderStrips(engine, node, 0, frame, () => undefined, { signal })
    } finally {
      engine.clear()
    }
    return performance.now() - t
  }
  /** Frames of a drag: each with the step's first control a little farther. */
  const dragged = async (step: AnyStep): Promise<number> => {
    const engine = newEngine(kernels, sources)
    const artwork = eightSteps({ asset: ASSET, width: p.width, height: p.height, title: 'bench' })
    const [name, spec] = Object.entries(step.params).find(([, s]) => s.type === 'number' || s.type === 'length') ?? []
    const times: number[] = []
    for (let i = 0; i < 8; i++) {
      const use = newStep(step.id, step.sample as Record<string, unknown>)
      const v = name ? use.params[name] : null
      if (spec?.type === 'length') use.params[name!] = { ...(v as { value: number }), value: (v as { value: number }).value * (1 + 0.02 * i) }
      else if (spec?.type === 'number') use.params[name!] = Math.min(spec.max, (v as number) + (spec.max - spec.min) * 0.01 * i)
      artwork.layers[0]!.chain = [use]
      const node = new GraphCompiler(artwork, kernels.hash).compile({ type: 'artwork' })
      const region = { x: 0, y: 0, w: p.width >> COARSE, h: p.height >> COARSE }
      const t = performance.now()
      await engine.withRegion(node, COARSE, region, () => undefined, { quick: true, alone: true })
      // the first reads the photo
      if (i > 0) times.push(performance.now() - t)
    }
    engine.clear()
    return median(times)
  }
  await render([])
  const reading = median([await render([]), await render([]), await render([])])
  const rows: StepRow[] = []
  for (const step of chosen) {
    const chain = () => [newStep(step.id, step.sample as Record<string, unknown>)]
    await render(chain())
    const ms = Math.max(0, median([await render(chain()), await render(chain()), await render(chain())]) - reading)
    // told to stop at once, early and halfway; counted from when it should have been told, for a thread that does not listen hears late
    let stops: number | null = null
    for (const share of [0.02, 0.25, 0.5]) {
      const signal = { cancelled: false }
      const wait = (ms + reading) * share
      const due = performance.now() + wait
      setTimeout(() => (signal.cancelled = true), wait)
      try {
        await render(chain(), signal)
      } catch (error) {
        if (!(error instanceof QuillError) || error.code !== 'cancelled') throw error
        stops = Math.max(stops ?? 0, performance.now() - due)
      }
    }
    const coarse = laysOut(step) ? null : await dragged(step)
    rows.push({ step, ms, stops, coarse, bar: barOf(step) })
    console.log(
      `  ${step.title.padEnd(28)} ${ms.toFixed(0).padStart(6)} ms (bar ${barOf(step)}), under the hand ${coarse?.toFixed(0) ?? '–'} ms, stops after ${stops?.toFixed(0) ?? '–'} ms`,
    )
  }
  return rows
}

export function stepTable(rows: readonly StepRow[]): string {
  return [
    '| step | kind | ms at 6 megapixels, two threads | wanted | under the hand, ms | stops after, ms |',
    '| --- | --- | ---: | ---: | ---: | ---: |',
    ...rows.map(
      (r) =>
        `| ${r.step.title} | ${r.step.kind} | ${r.ms.toFixed(0)} | ≤ ${r.bar}${r.ms <= r.bar ? '' : ' **missed**'} | ${r.coarse?.toFixed(0) ?? '–'} | ${r.stops?.toFixed(0) ?? '–'} |`,
    ),
  ].join('\n')
}

export function stepBars(rows: readonly StepRow[]): Bar[] {
  const slow = rows.filter((r) => r.ms > r.bar)
  const late = Math.max(...rows.map((r) => r.stops ?? 0))
  return [
    {
      what: 'steps within their time',
      bar: `${rows.length} of ${rows.length}`,
      measured: `${rows.length - slow.length}${slow.length ? `: not ${slow.map((r) => r.step.title).join(', ')}` : ''}`,
      met: slow.length === 0,
    },
    {
      what: 'the slowest picture under a hand',
      bar: '≤ 100 ms',
      measured: (([step, ms]) => `${ms} ms (${step})`)(
        rows.map((r): [string, number] => [r.step.title, Math.round(r.coarse ?? 0)]).sort((a, b) => b[1] - a[1])[0]!,
      ),
      met: rows.every((r) => (r.coarse ?? 0) <= 100),
    },
    { what: 'the latest stop', bar: '≤ 300 ms', measured: `${late.toFixed(0)} ms`, met: late <= 300 },
  ]
}
