import { readdirSync, readFileSync } from 'node:fs'
import { dirname, join, relative } from 'node:path'

// A class that no sheet has is silently no class at all; a rule for a class that no page has is dead.

const src = __dirname
const files = readdirSync(src, { recursive: true, encoding: 'utf8' }).map((f) => join(src, f))
const classesIn = (sheet: string): Set<string> =>
  new Set(
    [
      ...readFileSync(sheet, 'utf8')
        .replace(/:global\([^)]*\)/g, '')
        .matchAll(/\.([a-zA-Z][a-zA-Z0-9]*)/g),
    ].map((m) => m[1]!),
  )

test('every class a page names is in its room’s sheet, and every class of a sheet is named by a page', () => {
  const used = new Map<string, Set<string>>()
  const missing: string[] = []
  for (const page of files.filter((f) => f.endsWith('.tsx'))) {
    const text = readFileSync(page, 'utf8')
    for (const [, name, path] of text.matchAll(/^import (\w+) from '(\..*\.module\.css)'/gm)) {
      const sheet = join(dirname(page), path!)
      const there = classesIn(sheet)
      const all = used.get(sheet) ?? new Set<string>()
      used.set(sheet, all)
      // a class may also be taken by a name that is looked up
      if (new RegExp(`\\b${name}\\[`).test(text)) for (const c of there) all.add(c)
      for (const [, c] of text.matchAll(new RegExp(`\\b${name}\\.(\\w+)`, 'g'))) {
        all.add(c!)
        if (!there.has(c!)) missing.push(`${relative(src, page)}: ${c}`)
      }
    }
  }
  const dead = files
    .filter((f) => f.endsWith('.module.css'))
    .flatMap((f) => [...classesIn(f)].filter((c) => !used.get(f)?.has(c)).map((c) => `${relative(src, f)}: ${c}`))
  expect(missing).toEqual([])
  expect(dead).toEqual([])
  expect(used.size).toBeGreaterThan(8)
})
