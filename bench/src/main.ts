import { execFile } from 'node:child_process'
import { readFile, writeFile } from 'node:fs/promises'
import { cpus, release, totalmem } from 'node:os'
import { join } from 'node:path'
import { promisify } from 'node:util'
import { contestants } from './graphite-chain.ts'
import { mosaic } from './picture.ts'

// npm run bench: ours against general-purpose libraries, interleaved in one run; medians of CPU time, ratios, peak memory.

const root = join(import.meta.dirname, '../..')
const photos = join(root, 'demo/photos')
const run = promisify(execFile)
const only = process.argv.includes('--only') ? process.argv[process.argv.indexOf('--only') + 1]! : ''
const alone = process.argv.indexOf('--alone')

const median = (v: number[]) => [...v].sort((a, b) => a - b)[Math.floor(v.length / 2)]!

/** CPU seconds that a piece of work takes, over all threads. */
async function cpuSeconds(work: () => Promise<unknown>): Promise<number> {
  const before = process.cpuUsage()
  await work()
  const { user, system } = process.cpuUsage(before)
  return (user + system) / 1e6
}

interface Row {
  megapixels: number
  name: string
  seconds: number
  ratio: number
  memory: number
}

async function measure(megapixels: number, rounds: number): Promise<Row[]> {
  const picture = await mosaic(photos, megapixels)
  const made = await Promise.all(Object.values(contestants).map((c) => c(picture)))
  const times = new Map<string, number[]>(made.map((c) => [c.name, []]))
  const results = new Map<string, Uint8Array>()
  for (const c of made) results.set(c.name, await c.run())
  // the contestants compute the same picture, to within what 8 bits between operations do to a dodge
  const [reference, ...others] = made.map((c) => results.get(c.name)!)
  for (const [i, other] of others.entries()) {
    let sum = 0
    for (let j = 0; j < reference!.length; j += 101) sum += Math.abs(reference![j]! - other[j]!)
    console.log(`  mean difference of ${made[i + 1]!.name}: ${(sum / (reference!.length / 101)).toFixed(2)} of 255`)
  }
  for (let r = 0; r < rounds; r++) for (const c of made) times.get(c.name)!.push(await cpuSeconds(c.run))
  const rows: Row[] = []
  for (const c of made) {
    const seconds = median(times.get(c.name)!)
    const ratios = times.get(c.name)!.map((t, i) => times.get('ours')![i]! / t)
    const { stdout } = await run(process.execPath, [join(import.meta.dirname, 'main.js'), '--alone', c.name, String(megapixels)], { maxBuffer: 1e7 })
    rows.push({ megapixels, name: c.name, seconds, ratio: median(ratios), memory: Number(stdout.trim().split('\n').at(-1)) })
  }
  return rows
}

if (alone > 0) {
  // one contestant in a process of its own, for its peak memory above what was there before it began
  const name = process.argv[alone + 1] as keyof typeof contestants
  const picture = await mosaic(photos, Number(process.argv[alone + 2]))
  const before = process.memoryUsage().rss
  await (await contestants[name](picture)).run()
  console.log(Math.max(0, process.resourceUsage().maxRSS * 1024 - before))
} else {
  const rows: Row[] = []
  for (const [megapixels, rounds] of [
    [2, 7],
    [24, 3],
  ] as const) {
    const label = `graphite-chain ${megapixels}`
    if (only && !label.includes(only)) continue
    console.log(label)
    rows.push(...(await measure(megapixels, rounds)))
  }
  const table = [
    '| megapixels | contestant | CPU seconds (median) | ours to it | peak memory above the photo |',
    '| ---: | --- | ---: | ---: | ---: |',
    ...rows.map(
      (r) =>
        `| ${r.megapixels} | ${r.name} | ${r.seconds.toFixed(3)} | ${r.name === 'ours' ? '' : `${r.ratio.toFixed(2)}×`} | ${Math.round(r.memory / 2 ** 20)} MiB |`,
    ),
  ].join('\n')
  console.log(table)
  const ours = rows.filter((r) => r.name === 'ours')
  const growth = ours.length === 2 ? Math.log(ours[1]!.seconds / ours[0]!.seconds) / Math.log(ours[1]!.megapixels / ours[0]!.megapixels) : null
  if (growth !== null) console.log(`growth exponent ${growth.toFixed(2)}`)
  if (!only) {
    const path = join(root, 'docs/performance.md')
    const text = await readFile(path, 'utf8')
    const machine = `${cpus().length} cores of ${cpus()[0]!.model.trim()}, ${Math.round(totalmem() / 2 ** 30)} GiB, Linux ${release()}, Node ${process.versions.node}`
    const written = `<!-- measured -->\n\nMeasured on ${machine}, one thread each, on ${new Date().toISOString().slice(0, 10)}.\n\n${table}\n\n${growth === null ? '' : `Ours grows with the number of pixels to the power ${growth.toFixed(2)}.\n\n`}<!-- /measured -->`
    await writeFile(path, text.replace(/<!-- measured -->[\s\S]*<!-- \/measured -->/, written))
  }
}
