// What TypeScript knows of the kernels, drawn from their sources: signatures, how a call is cut into rows, and how much
// scratch memory it takes. So a new kernel is one file in core/kernels and one line in its index.
import { createHash } from 'node:crypto'
import { readdirSync, readFileSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { root, Stop } from './say.mjs'

const folder = join(root, 'core/kernels')

/** The comment, parameters and result of an exported function. */
function signature(text, name, file) {
  const m = new RegExp(`(?:/\\*\\*((?:[^*]|\\*(?!/))*)\\*/\\s*)?export function ${name}\\(([^)]*)\\): (\\w+)`).exec(text)
  if (!m) throw new Stop(`core/kernels/index.ts exports ${name}, which ${file} does not have.`)
  const params = m[2]
    .split(',')
    .map((p) => p.trim())
    .filter(Boolean)
    .map((p) => p.split(':').map((s) => s.trim()))
  return { name, doc: m[1] ?? '', params, result: m[3] }
}

/** `@rows src 2:dst +y0` and `@overlap 2 * r`: see docs/how-to-add-a-kernel.md. */
function rowsOf({ name, doc, params }) {
  const tag = /@rows (.+)/.exec(doc)
  if (!tag) return 'null'
  const at = (p) => {
    const i = params.findIndex(([n]) => n === p)
    if (i < 0) throw new Stop(`The kernel ${name} says @rows ${tag[1]}, but has no parameter ${p}.`)
    return i
  }
  const unit = Number(/@unit (\d+)/.exec(doc)?.[1] ?? 1)
  const shifts = []
  const adds = []
  for (const word of tag[1].trim().split(/\s+/)) {
    if (word.startsWith('+')) adds.push(at(word.slice(1)))
    else {
      const [times, p] = word.includes(':') ? word.split(':') : ['1', word]
      shifts.push(/^\d+$/.test(times) ? [at(p), at(`${p}Stride`), Number(times), -1] : [at(p), at(`${p}Stride`), 1, at(times)])
    }
  }
  const overlap = /@overlap (.+)/.exec(doc)?.[1] ?? '0'
  const work = /@work (.+)/.exec(doc)?.[1] ?? (params.some(([n]) => n === 'w') ? 'w * h' : '(rowBytes * h) / 8')
  return `{ height: ${at('h')}, unit: ${unit}, shifts: ${JSON.stringify(shifts)}, adds: ${JSON.stringify(adds)}, overlap: ${formula(overlap, params)}, work: ${formula(work, params)} }`
}

/** A formula over parameters as one over the list of arguments. */
function formula(text, params) {
  const filled = text.trim().replace(/[a-zA-Z]\w*/g, (n) => {
    const i = params.findIndex(([p]) => p === n)
    if (i < 0) throw new Stop(`“${text}” speaks of ${n}, which is no parameter.`)
    return `a[${i}]!`
  })
  return `(${filled.includes('a[') ? 'a' : ''}) => ${filled}`
}

/** Writes core/src/kernels/calls.ts. */
export function writeKernelCalls() {
  const index = readFileSync(join(folder, 'index.ts'), 'utf8')
  const list = []
  for (const [, names, from] of index.matchAll(/export \{([^}]+)\} from '\.\/([\w-]+)'/g)) {
    const text = readFileSync(join(folder, `${from}.ts`), 'utf8')
    for (const name of names
      .split(',')
      .map((n) => n.trim())
      .filter(Boolean))
      list.push(signature(text, name, `${from}.ts`))
  }
  list.push(signature(index, 'heapBase', 'index.ts'))
  const hash = createHash('sha256')
  for (const f of [
    ...readdirSync(folder)
      .sort()
      .map((n) => join(folder, n)),
    join(root, 'core/asconfig.json'),
  ])
    hash.update(readFileSync(f))
  const type = (t) => (t === 'i64' ? 'bigint' : t === 'void' ? 'void' : 'number')
  const methods = list.map(({ name, doc, params, result }) => {
    const shown = params.filter(([n]) => n !== 'scratch')
    const text = doc
      .replace(/^\s*\* ?@(rows|overlap|unit|scratch|work).*\n?/gm, '')
      .replace(/\s*\n\s*\*\s?/g, ' ')
      .trim()
    return `${text ? `  /** ${text} */\n` : ''}  ${name}(${shown.map(([n, t]) => `${n}: ${type(t)}`).join(', ')}): ${type(result)}`
  })
  const entries = list.map((k) => {
    const scratch = /@scratch (.+)/.exec(k.doc)?.[1]
    if (k.params.some(([n]) => n === 'scratch') !== (scratch !== undefined))
      throw new Stop(`The kernel ${k.name} needs both a parameter scratch and a line @scratch.`)
    return `  { name: '${k.name}', rows: ${rowsOf(k)}, scratch: ${scratch ? formula(scratch, k.params) : 'null'} },`
  })
  writeFileSync(
    join(root, 'core/src/kernels/calls.ts'),
    `// Written by the build from core/kernels; not to be edited.

/** How a call is cut into bands of rows that may be computed apart. */
export interface Rows {
  /** The argument that holds the number of rows. */
  height: number
  /** Rows of the argument that make one row of the result. */
  unit: number
  /** Pointers that move with the rows: argument, its stride's argument, strides a row, argument that multiplies them or −1. */
  shifts: readonly (readonly [number, number, number, number])[]
  /** Arguments to which the first row's number is added. */
  adds: readonly number[]
  /** Rows computed twice at each cut. */
  overlap: (a: readonly number[]) => number
  /** Pixels to be worked on. */
  work: (a: readonly number[]) => number
}
export interface Call {
  name: string
  rows: Rows | null
  /** Bytes of scratch memory a call takes, as its last argument. */
  scratch: ((a: readonly number[]) => number) | null
}

/** What the WebAssembly module exports: raw pointers and strides in bytes. Scratch memory is given by the caller's side. */
export interface KernelExports {
${methods.join('\n')}
}

export const calls: readonly Call[] = [
${entries.join('\n')}
]

/** Hash of the kernels' sources, part of every structural key. */
export const KERNEL_HASH = '${hash.digest('hex').slice(0, 16)}'
`,
  )
}
