import { steps } from '@nimble-quill/core'
import { existsSync, readFileSync } from 'node:fs'
import { join } from 'node:path'
import { chainBars, chainTable, measureChains, measureLarge, measureThreads, type ChainRow } from './chains.ts'
import { measureGrowth } from './growth.ts'
import { kernelBars, kernelTable, measureKernels, type KernelRow } from './kernels.ts'
import type { Bar } from './measure.ts'
import { Native } from './native.ts'
import { measurePainted } from './painted.ts'
import { measurePainting } from './painting.ts'
import { mosaic } from './picture.ts'
import { measurePlacing } from './placing.ts'
import { barTable, writeSection } from './report.ts'
import { measureLines } from './lines.ts'
import { measureSheets } from './sheets.ts'
import { measureSteps, stepBars, stepTable } from './steps.ts'

// npm run bench: ours against general-purpose libraries, interleaved in one run; medians of CPU time, ratios, peak memory. Each
// section that is run whole writes its part of docs/performance.md. `--only steps hatching` measures single steps.

const photos = join(import.meta.dirname, '../../demo/photos')
const only = process.argv.includes('--only') ? process.argv[process.argv.indexOf('--only') + 1]! : ''
const sections = ['kernels', 'steps', 'chains', 'growth', 'placing', 'sheets', 'lines', 'painted', 'painting', 'threads', 'large', 'drag'] as const
const wanted = (s: (typeof sections)[number]) => !only || only === s || (s === 'kernels' && !sections.includes(only as 'kernels'))
/** Names a part of the kernels, where it is not a section. */
const part = sections.includes(only as 'kernels') ? '' : only

const native = await Native.start()
if (!native) console.log('OpenCV native is not measured: install python3-opencv to have it compared.')
const withBars = (text: string, bars: readonly Bar[]) => `${text}\n\n${barTable(bars)}`

if (wanted('kernels')) {
  const rows: KernelRow[] = []
  for (const megapixels of [2, 12]) {
    console.log(`kernels at ${megapixels} MP`)
    rows.push(...(await measureKernels(await mosaic(photos, megapixels), megapixels, native, part)))
  }
  if (!part) await writeSection('kernels', withBars(kernelTable(rows), kernelBars(rows)))
}
if (wanted('steps')) {
  console.log('steps at 6 MP')
  const chosen = steps.filter((s) => process.argv.includes(s.id))
  const rows = await measureSteps(await mosaic(photos, 6), chosen.length ? chosen : steps)
  if (!chosen.length) await writeSection('steps', withBars(stepTable(rows), stepBars(rows)))
}
if (wanted('chains')) {
  const rows: ChainRow[] = []
  for (const megapixels of [2, 24, 100]) rows.push(...(await measureChains(await mosaic(photos, megapixels), megapixels, megapixels > 50 ? null : native)))
  await writeSection('chains', withBars(chainTable(rows), chainBars(rows)))
}
if (wanted('growth')) {
  const { text, bars } = await measureGrowth(photos)
  await writeSection('growth', withBars(text, bars))
}
if (wanted('placing')) {
  const { text, bars } = await measurePlacing(photos)
  await writeSection('placing', withBars(text, bars))
}
if (wanted('sheets')) {
  const { text, bars } = await measureSheets(photos)
  await writeSection('sheets', withBars(text, bars))
}
if (wanted('lines')) {
  const { text, bars } = await measureLines(photos)
  await writeSection('lines', withBars(text, bars))
}
if (wanted('painted')) {
  const { text, bars } = await measurePainted(photos)
  await writeSection('painted', withBars(text, bars))
}
if (wanted('painting')) {
  const { text, bars } = await measurePainting(photos)
  await writeSection('painting', withBars(text, bars))
}
if (wanted('threads')) {
  const { text, bars } = await measureThreads(await mosaic(photos, 24), 24)
  await writeSection('threads', withBars(text, bars))
}
if (wanted('large')) {
  const { text, bars } = await measureLarge(100)
  await writeSection('large', withBars(text, bars))
}
native?.close()

interface Painted {
  kind: 'paint'
  what: string
  median: number
  late: number
  settled: number
  longTasks: number
  longest: number
}

interface Drag {
  what: string
  coarseMedian: number
  coarseLate: number
  fineMedian: number
  fineLast: number
  settled: number
  lagging: number
  longTasks: number
  longest: number
}
const measured = process.env.QUILL_MEASURED
if (wanted('drag') && measured && existsSync(measured)) {
  const all = readFileSync(measured, 'utf8')
    .trim()
    .split('\n')
    .map((l) => JSON.parse(l) as Drag | Painted)
  const strokes = all.filter((l): l is Painted => 'kind' in l)
  const drags = all.filter((l): l is Drag => !('kind' in l))
  const table = [
    '| drag | coarse, ms (median) | coarse, ms (95th percentile) | fine, ms | settled after the hand, ms | coarser than half the view | main thread: tasks over 50 ms | longest, ms |',
    '| --- | ---: | ---: | ---: | ---: | ---: | ---: | ---: |',
    ...drags.map((d) => `| ${d.what} | ${d.coarseMedian} | ${d.coarseLate} | ${d.fineMedian} | ${d.settled} | ${d.lagging} | ${d.longTasks} | ${d.longest} |`),
    ...(strokes.length
      ? [
          '',
          '| stroke, in Chromium | shown after, ms (median) | ms (95th percentile) | settled after the lift, ms | main thread: tasks over 50 ms | longest, ms |',
          '| --- | ---: | ---: | ---: | ---: | ---: |',
          ...strokes.map((s) => `| ${s.what} | ${s.median} | ${s.late} | ${s.settled} | ${s.longTasks} | ${s.longest} |`),
        ]
      : []),
  ].join('\n')
  const bars = drags.flatMap((d): Bar[] =>
    d.what.includes('twelve')
      ? [
          { what: `${d.what}: coarse, median`, bar: '≤ 40 ms', measured: `${d.coarseMedian} ms`, met: d.coarseMedian <= 40 },
          { what: `${d.what}: coarse, 95th percentile`, bar: '≤ 100 ms', measured: `${d.coarseLate} ms`, met: d.coarseLate <= 100 },
          { what: `${d.what}: views coarser than half the view's pixels`, bar: '0', measured: String(d.lagging), met: d.lagging === 0 },
          { what: `${d.what}: fine`, bar: '≤ 300 ms', measured: `${d.fineMedian} ms`, met: d.fineMedian <= 300 },
          { what: `${d.what}: tasks over 50 ms on the main thread`, bar: '0', measured: String(d.longTasks), met: d.longTasks === 0 },
        ]
      : d.what.includes('six point steps')
        ? [{ what: `${d.what}: settled`, bar: 'about 2 s', measured: `${(d.settled / 1000).toFixed(1)} s`, met: d.settled <= 2300 }]
        : [],
  )
  for (const s of strokes) {
    bars.push({ what: `${s.what}: under the brush, 95th percentile`, bar: '≤ 100 ms', measured: `${s.late} ms`, met: s.late <= 100 })
    bars.push({ what: `${s.what}: under the brush, median`, bar: '≤ 40 ms', measured: `${s.median} ms`, met: s.median <= 40 })
  }
  console.log(table)
  await writeSection('drag', withBars(table, bars))
}
process.exit()
