import { readFile, writeFile } from 'node:fs/promises'
import { cpus, release, totalmem } from 'node:os'
import { join } from 'node:path'
import type { Bar } from './measure.ts'

const path = join(import.meta.dirname, '../../docs/performance.md')

export const machine = (): string =>
  `${cpus().length} cores of ${cpus()[0]!.model.trim()}, ${Math.round(totalmem() / 2 ** 30)} GiB, Linux ${release()}, Node ${process.versions.node}`

export function barTable(bars: readonly Bar[]): string {
  if (!bars.length) return ''
  return [
    '| bar | wanted | measured | |',
    '| --- | ---: | ---: | --- |',
    ...bars.map((b) => `| ${b.what} | ${b.bar} | ${b.measured} | ${b.met ? 'met' : '**missed**'} |`),
  ].join('\n')
}

/** Replaces a section's measured part in docs/performance.md. */
export async function writeSection(name: string, text: string): Promise<void> {
  const doc = await readFile(path, 'utf8')
  const [open, end] = [`<!-- ${name} -->`, `<!-- /${name} -->`]
  const a = doc.indexOf(open)
  const b = doc.indexOf(end)
  if (a < 0 || b < 0) throw new Error(`docs/performance.md has no section ${name}`)
  const when = `Measured on ${machine()}, on ${new Date().toISOString().slice(0, 10)}.`
  await writeFile(path, `${doc.slice(0, a + open.length)}\n\n${when}\n\n${text}\n\n${doc.slice(b)}`)
}
