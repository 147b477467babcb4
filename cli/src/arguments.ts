import { paramSchema, recipes, stepById, steps, typeOf, type AnyStep, type ParamSpec, type QuillError } from '@nimble-quill/core'
import { Command, CommanderError } from 'commander'

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
  /** The folder of what was painted by hand in an artwork, as the server keeps it; null: none. */
  painted: string | null
  controls: Record<string, string>
  level: number
  longSide: number | null
  ppi: number | null
  quality: number
  out: string
  centreLines: boolean
  list: boolean
  json: boolean
}

/** Scales by level from −1 on. */
const scales = ['2', '1', '1/2', '1/4', '1/8', '1/16', '1/32']

function whole(name: string, text: string, min: number, max: number): number {
  const v = Number(text)
  if (text.trim() === '' || !Number.isInteger(v) || v < min || v > max)
    throw new UsageError(`${name} takes a whole number from ${min} to ${max}; “${text}” is not one.`)
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
  if (spec.type === 'picture') return new PictureFile(text)
  const type = typeOf(spec)
  const value = type.read(spec, text)
  const checked = value === undefined ? null : paramSchema(spec).safeParse(value)
  if (!checked?.success) throw new UsageError(`${def.id}: ${name} is ${type.range(spec)}; “${text}” is not.`)
  return checked.data
}

/** Splits name=value. */
function pair(option: string, text: string): [name: string, value: string] {
  const at = text.indexOf('=')
  if (at < 1) throw new UsageError(`${option} takes name=value; “${text}” is not of that form.`)
  return [text.slice(0, at), text.slice(at + 1)]
}

/** A step's id, or a value of the step named before it. */
function addStep(text: string, steps: StepArgument[] = []): StepArgument[] {
  const last = steps.at(-1)
  if (last && text.includes('=')) {
    const [name, value] = pair('--step', text)
    return [...steps.slice(0, -1), { ...last, values: { ...last.values, [name]: parseParam(stepById(last.id), name, value) } }]
  }
  try {
    return [...steps, { id: stepById(text).id, values: {} }]
  } catch (error) {
    throw new UsageError((error as QuillError).message)
  }
}

function scaleOf(text: string): number {
  const level = scales.findIndex((s, i) => s === text || Number(text) === 2 / 2 ** i) - 1
  if (level < -1) throw new UsageError(`--scale is one of ${scales.join(', ')}; “${text}” is not.`)
  return level
}

/** The command line, declared. */
function command(): Command {
  return new Command('npm run render --')
    .description('Renders a photograph as a recipe, an artwork or steps say. The pixels are those that the bench delivers.')
    .argument('[photo]', 'the photograph')
    .option('--recipe <name>', 'a recipe by its name, or the file of one (.json)')
    .option('--artwork <file>', 'the file of an artwork')
    .option('--step <id...>', 'a step, with values as name=value behind it; again for more', addStep)
    .option('--picture <file>', 'the file of a further picture that an artwork is made of; again for more', (file, all: string[] = []) => [...all, file])
    .option('--set <control=value...>', 'controls of the recipe', (text, all: Record<string, string> = {}) => {
      const [name, value] = pair('--set', text)
      return { ...all, [name]: value }
    })
    .option('--scale <scale>', `computed at ${scales.join(', ')} of full size, as a preview is`, scaleOf, 0)
    .option('--painted <folder>', 'what was painted by hand in an artwork: a folder of its parts, as the server keeps them')
    .option('--long-side <pixels>', 'the finished picture is reduced to this', (text) => whole('--long-side', text, 1, 100_000))
    .option('--ppi <number>', 'pixels an inch, written into the file', (text) => whole('--ppi', text, 1, 10_000))
    .option('--quality <number>', 'of a JPEG, 1 to 100', (text) => whole('--quality', text, 1, 100), 90)
    .option('--out <file>', 'what is written: .png or .jpg, or .svg for the lines of steps that draw')
    .option('--centre-lines', 'in a .svg the lines in the middle of what is drawn, for a pen that cannot swell, instead of its shapes', false)
    .option('--list', 'recipes and steps with their controls, instead of rendering', false)
    .option('--json', 'the list for machines', false)
    .allowExcessArguments(true)
    .showSuggestionAfterError(true)
    .exitOverride()
}

/** How it is called, with every option. */
export const usage = (): string => command().helpInformation()

/** What was asked for instead of a render: the help, told already. */
export class Helped extends Error {}

/** Reads the command line. Throws UsageError; Helped after --help, whose text it carries. */
export function parseArguments(argv: readonly string[]): Arguments {
  const cmd = command()
  let told = ''
  cmd.configureOutput({ writeOut: (text) => (told += text), writeErr: (text) => (told += text) })
  try {
    cmd.parse(argv, { from: 'user' })
  } catch (error) {
    if (!(error instanceof CommanderError)) throw error
    if (error.code === 'commander.helpDisplayed') throw new Helped(told)
    throw new UsageError(`${told.replace(/^error: /, '').trim()}\n${usage()}`)
  }
  const o = cmd.opts<{
    recipe?: string
    artwork?: string
    step?: StepArgument[]
    picture?: string[]
    painted?: string
    set?: Record<string, string>
    scale: number
    longSide?: number
    ppi?: number
    quality: number
    out?: string
    centreLines: boolean
    list: boolean
    json: boolean
  }>()
  const [photo = null, another] = cmd.args
  if (another !== undefined) throw new UsageError(`Only one photo is rendered at a time; “${another}” is a second one.\n${usage()}`)
  const a: Arguments = {
    photo,
    recipe: o.recipe ?? null,
    artwork: o.artwork ?? null,
    steps: o.step ?? [],
    pictures: o.picture ?? [],
    painted: o.painted ?? null,
    controls: o.set ?? {},
    level: o.scale,
    longSide: o.longSide ?? null,
    ppi: o.ppi ?? null,
    quality: o.quality,
    out: o.out ?? '',
    centreLines: o.centreLines,
    list: o.list,
    json: o.json,
  }
  if (a.list) return a
  if (a.photo === null) throw new UsageError(`Which photo?\n${usage()}`)
  if (!/\.(png|jpe?g|svg)$/i.test(a.out)) throw new UsageError(`--out needs a file name that ends in .png, .jpg or .svg.\n${usage()}`)
  if (a.centreLines && !/\.svg$/i.test(a.out)) throw new UsageError(`--centre-lines is for a .svg.\n${usage()}`)
  if (/\.svg$/i.test(a.out) && (a.level !== 0 || a.longSide !== null))
    throw new UsageError('Lines have no pixels: --scale and --long-side mean nothing for a .svg. Its size on paper goes by --ppi.')
  const ways = [a.recipe !== null, a.artwork !== null, a.steps.length > 0].filter(Boolean).length
  if (ways > 1) throw new UsageError(`--recipe, --artwork and --step are three ways of saying what to do; use one of them.\n${usage()}`)
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
    for (const [name, p] of Object.entries(s.params)) lines.push(`    ${name} = ${typeOf(p).write(p, p.default)}   ${typeOf(p).range(p)}   ${p.help}`)
  }
  return lines.join('\n')
}
