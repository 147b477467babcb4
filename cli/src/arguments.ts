import { convertLength, HUES, paramSchema, QuillError, recipes, stepById, steps, type AnyStep, type ParamSpec } from '@nimble-quill/core'

/** Called wrongly: exit code 2. The message says what is valid. */
export class UsageError extends Error {}

export interface StepArgument {
  id: string
  values: Record<string, unknown>
}
export interface Arguments {
  photo: string | null
  recipe: string | null
  artwork: string | null
  steps: StepArgument[]
  /** Files of further pictures that an artwork is made of. */
  pictures: string[]
  controls: Record<string, string>
  level: number
  longSide: number | null
  ppi: number | null
  quality: number
  out: string
  list: boolean
  json: boolean
}

export const usage = `Usage: npm run render -- PHOTO [--recipe NAME|FILE | --artwork FILE | --step ID [name=value …] [--step …]]
       [--picture FILE …] [--set control=value …] [--scale 2|1|1/2|1/4 …] [--long-side N] [--ppi N] [--quality N] --out FILE.png|FILE.jpg
       npm run render -- --list [--json]     recipes and steps with their controls`

/** Scales by level from −1 on. */
const scales = ['2', '1', '1/2', '1/4', '1/8', '1/16', '1/32']

function whole(name: string, text: string | undefined, min: number, max: number): number {
  const v = Number(text)
  if (text === undefined || !Number.isInteger(v) || v < min || v > max)
    throw new UsageError(`${name} takes a whole number from ${min} to ${max}${text === undefined ? '' : `; “${text}” is not one`}.`)
  return v
}

/** A picture that a step goes by, as it is named on the command line. */
export class PictureFile {
  readonly path: string

  constructor(path: string) {
    this.path = path
  }
}

/** A parameter's value from the command line: numbers as the interface shows them (shares in per cent with a % sign, or 0…1), lengths as 3px, 0.5% or 2mm. */
export function parseParam(def: AnyStep, name: string, text: string): unknown {
  const spec: ParamSpec | undefined = def.params[name]
  if (!spec) {
    const valid = Object.keys(def.params)
    throw new UsageError(`The step “${def.id}” has no value called “${name}”. ${valid.length ? `It has: ${valid.join(', ')}.` : 'It has none.'}`)
  }
  switch (spec.type) {
    case 'length': {
      const m = /^([0-9.]+)(px|%|mm)?$/.exec(text)
      const value = m ? Number(m[1]) : NaN
      if (!Number.isFinite(value)) throw new UsageError(`${def.id}: ${name} is a length such as 3px, 0.5% or 2mm; “${text}” is not one.`)
      const length = { value, unit: (m![2] ?? 'px') as 'px' | '%' | 'mm' }
      const inPx = convertLength(length, 'px', { reference: 1, ppi: 1 }).value
      if (length.unit === 'px' && (inPx < spec.min || inPx > spec.max))
        throw new UsageError(`${def.id}: ${name} goes from ${spec.min}px to ${spec.max}px; “${text}” lies outside.`)
      return length
    }
    case 'number': {
      const share = text.endsWith('%')
      const v = Number(share ? text.slice(0, -1) : text) / (share ? 100 : 1)
      if (text.trim() === '' || !(v >= spec.min && v <= spec.max))
        throw new UsageError(`${def.id}: ${name} goes from ${spec.min} to ${spec.max}; “${text}” does not.`)
      return v
    }
    case 'choice':
      if (!spec.options.some((o) => o.value === text))
        throw new UsageError(`${def.id}: ${name} is one of ${spec.options.map((o) => o.value).join(', ')}; “${text}” is not.`)
      return text
    case 'curve': {
      const points = text.split(';').map((p) => p.split(',').map(Number))
      if (points.length < 2 || points.some((p) => p.length !== 2 || p.some((v) => !(v >= 0 && v <= 1))))
        throw new UsageError(`${def.id}: ${name} is a list of points x,y;x,y … from 0 to 1; “${text}” is not.`)
      return points
    }
    case 'picture':
      return new PictureFile(text)
    case 'seed':
      return whole(`${def.id}: ${name}`, text, 0, 0x7fffffff)
    default: {
      const checked = paramSchema(spec).safeParse(listed(spec, text))
      if (!checked.success) throw new UsageError(`${def.id}: ${name} is ${range(spec)}; “${text}” is not.`)
      return checked.data
    }
  }
}

/** Values that are lists, colours or marks, out of text; checked by the caller. */
function listed(spec: ParamSpec, text: string): unknown {
  const parts = text === '' ? [] : text.split(/[;,]/)
  switch (spec.type) {
    case 'flag':
      return text === 'true' ? true : text === 'false' ? false : text
    case 'colour':
      return text
    case 'palette':
      return parts
    case 'gradient':
      return text.split(';').map((stop) => stop.split(',').map((v, i) => (i === 0 ? Number(v) : v)))
    case 'place':
      return { x: Number(parts[0]), y: Number(parts[1]) }
    default:
      return parts.map(Number)
  }
}

/** Reads the command line. Throws UsageError. */
export function parseArguments(argv: readonly string[]): Arguments {
  const a: Arguments = {
    photo: null,
    recipe: null,
    artwork: null,
    steps: [],
    pictures: [],
    controls: {},
    level: 0,
    longSide: null,
    ppi: null,
    quality: 90,
    out: '',
    list: false,
    json: false,
  }
  const rest = [...argv]
  const value = (name: string) => {
    const v = rest.shift()
    if (v === undefined || v.startsWith('--')) throw new UsageError(`${name} needs a value.\n${usage}`)
    return v
  }
  while (rest.length) {
    const arg = rest.shift()!
    switch (arg) {
      case '--list':
        a.list = true
        break
      case '--json':
        a.json = true
        break
      case '--recipe':
        a.recipe = value(arg)
        break
      case '--artwork':
        a.artwork = value(arg)
        break
      case '--step': {
        const id = value(arg)
        let def: AnyStep
        try {
          def = stepById(id)
        } catch (error) {
          throw new UsageError((error as QuillError).message)
        }
        const values: Record<string, unknown> = {}
        while (rest[0]?.includes('=') && !rest[0].startsWith('--')) {
          const [name, ...text] = rest.shift()!.split('=')
          values[name!] = parseParam(def, name!, text.join('='))
        }
        a.steps.push({ id, values })
        break
      }
      case '--picture':
        a.pictures.push(value(arg))
        break
      case '--set':
        do {
          const pair = value(arg)
          const at = pair.indexOf('=')
          if (at < 1) throw new UsageError(`--set takes control=value; “${pair}” is not of that form.`)
          a.controls[pair.slice(0, at)] = pair.slice(at + 1)
        } while (rest[0]?.includes('=') && !rest[0].startsWith('--'))
        break
      case '--scale': {
        const text = value(arg)
        a.level = scales.findIndex((s, i) => s === text || Number(text) === 2 / 2 ** i) - 1
        if (a.level < -1) throw new UsageError(`--scale is one of ${scales.join(', ')}; “${text}” is not.`)
        break
      }
      case '--long-side':
        a.longSide = whole(arg, rest.shift(), 1, 100000)
        break
      case '--ppi':
        a.ppi = whole(arg, rest.shift(), 1, 10000)
        break
      case '--quality':
        a.quality = whole(arg, rest.shift(), 1, 100)
        break
      case '--out':
        a.out = value(arg)
        break
      default:
        if (arg.startsWith('-')) throw new UsageError(`There is no option “${arg}”.\n${usage}`)
        if (a.photo !== null) throw new UsageError(`Only one photo is rendered at a time; “${arg}” is a second one.\n${usage}`)
        a.photo = arg
    }
  }
  if (a.list) return a
  if (a.photo === null) throw new UsageError(`Which photo?\n${usage}`)
  if (!/\.(png|jpe?g)$/i.test(a.out)) throw new UsageError(`--out needs a file name that ends in .png or .jpg.\n${usage}`)
  const ways = [a.recipe !== null, a.artwork !== null, a.steps.length > 0].filter(Boolean).length
  if (ways > 1) throw new UsageError(`--recipe, --artwork and --step are three ways of saying what to do; use one of them.\n${usage}`)
  if (Object.keys(a.controls).length && a.recipe === null) throw new UsageError('--set sets the controls of a recipe; name it with --recipe.')
  return a
}

/** What --list prints. */
export function listing(json: boolean): string {
  const table = {
    recipes: recipes.map((r) => ({
      id: r.id,
      title: r.title,
      help: r.help,
      controls: r.controls.map((c) => ({ id: c.id, title: c.title, help: c.help, default: c.default, ...c.kind })),
    })),
    steps: steps.map((s) => ({ id: s.id, version: s.version, title: s.title, group: s.group, help: s.help, method: s.method, params: s.params })),
  }
  if (json) return JSON.stringify(table, null, 2)
  const lines = ['Recipes']
  for (const r of table.recipes) {
    lines.push(`  ${r.id}: ${r.help}`)
    for (const c of r.controls)
      lines.push(
        `    ${c.id} = ${typeof c.default === 'object' ? JSON.stringify(c.default) : c.default}   ${c.type === 'number' ? `${c.min} … ${c.max}` : c.type === 'choice' ? c.options.map((o) => o.value).join(' | ') : 'as the step takes it'}   ${c.help}`,
      )
  }
  lines.push('Steps')
  for (const s of table.steps) {
    lines.push(`  ${s.id}: ${s.help}`)
    for (const [name, p] of Object.entries(s.params)) lines.push(`    ${name} = ${shown(p.default, p)}   ${range(p)}   ${p.help}`)
  }
  return lines.join('\n')
}

function shown(v: unknown, p: ParamSpec): string {
  if (p.type === 'length') return `${p.default.value}${p.default.unit}`
  if (p.type === 'curve' || p.type === 'gradient') return p.default.map((q) => q.join(',')).join(';')
  if (p.type === 'place') return `${p.default.x},${p.default.y}`
  return v === null ? 'none' : String(v)
}
function range(p: ParamSpec): string {
  switch (p.type) {
    case 'length':
      return `${p.min}px … ${p.max}px`
    case 'number':
      return `${p.min} … ${p.max}`
    case 'choice':
      return p.options.map((o) => o.value).join(' | ')
    case 'curve':
      return 'points x,y;x,y …'
    case 'seed':
      return 'a whole number'
    case 'flag':
      return 'true | false'
    case 'colour':
      return 'a colour #rrggbb'
    case 'gradient':
      return 'stops place,#rrggbb;place,#rrggbb …, places rising from 0 to 1'
    case 'palette':
      return `up to ${p.max} colours #rrggbb,#rrggbb …`
    case 'bounds':
      return `up to ${p.max} tones rising from 0 to 255: 64,128 …`
    case 'hues':
      return `eight numbers ${p.min} … ${p.max}, ${HUES.join(', ').toLowerCase()}`
    case 'rose':
      return 'sixteen numbers 0 … 1, from right counter-clockwise'
    case 'mix':
      return `${p.rows.length * p.columns.length} numbers -4 … 4, by rows ${p.rows.join(', ')} of ${p.columns.join(', ')}`
    case 'place':
      return 'a place x,y in shares of width and height'
    case 'picture':
      return 'the file of another picture'
  }
}
