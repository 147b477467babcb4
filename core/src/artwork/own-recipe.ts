import { QuillError } from '../base/errors.ts'
import { convertLength, type Length, type NumberSpec, type ParamSpec, type Scale } from '../steps/params/index.ts'
import { stepAt } from '../steps/registry.ts'
import { allLayers, firstPhoto, locate, locateStep } from './layers.ts'
import { loadRecipe } from './load.ts'
import { RECIPE_FORMAT, RECIPE_VERSION, type Artwork, type Control, type Layer, type Recipe, type StepUse } from './schema.ts'

// An artwork's layers as a recipe for other photos.

/** A value that becomes a control of the recipe. */
export interface Chosen {
  layer: string
  /** null: the layer's opacity. */
  step: string | null
  param: string
  title: string
  help: string
  /** Of a number: the values at its two ends, as the step counts them (lengths in the unit that they have). */
  ends?: { low: number; high: number }
}

/** A value of an artwork that could become a control. */
export interface Choosable {
  layer: string
  step: string | null
  param: string
  /** Layer, step and parameter, in words. */
  where: string
  title: string
  help: string
  /** Of a number. */
  number: { value: number; low: number; high: number; unit: string } | null
}

/** Values that a control can drive, as numbers; the rest of them is taken whole. */
const NUMBERS: ReadonlySet<ParamSpec['type']> = new Set(['number', 'length'])

/** A recipe has so many controls at most. */
export const MOST_CONTROLS = 12

const scaleOf = ({ sheet, reference }: Artwork): Scale => ({ ppi: sheet.ppi, reference })

/** A length that fits photos of other sizes: pixels as shares. */
function carried(value: unknown, spec: ParamSpec | undefined, scale: Scale): unknown {
  if (spec?.type !== 'length' || !value || (value as Length).unit !== 'px') return value
  const { value: v, unit } = convertLength(value as Length, '%', scale)
  return { value: Number(v.toPrecision(6)), unit }
}

/** Every value that could become a control, top layer first. */
export function choosableOf(artwork: Artwork): Choosable[] {
  const found: Choosable[] = []
  const scale = scaleOf(artwork)
  for (const layer of [...allLayers(artwork.layers)].reverse()) {
    for (const use of layer.chain) {
      const def = stepAt(use.step, use.version)
      for (const [param, spec] of Object.entries(def.params)) {
        const value = carried(use.params[param] ?? spec.default, spec, scale)
        const at = { layer: layer.id, step: use.id, param, where: `${layer.name} · ${def.title}`, title: spec.title, help: spec.help }
        if (!NUMBERS.has(spec.type)) {
          if (spec.type !== 'picture' && spec.type !== 'place' && spec.type !== 'ellipse') found.push({ ...at, number: null })
          continue
        }
        const { min, max } = spec as NumberSpec
        const held = spec.type === 'length' ? (value as Length) : { value: value as number, unit: '' }
        const inUnit = (px: number) =>
          spec.type === 'length' ? Number(convertLength({ value: px, unit: 'px' }, held.unit as Length['unit'], scale).value.toPrecision(3)) : px
        found.push({ ...at, number: { value: held.value, low: inUnit(min), high: inUnit(max), unit: held.unit } })
      }
    }
    found.push({
      layer: layer.id,
      step: null,
      param: 'opacity',
      where: layer.name,
      title: 'Opacity',
      help: 'How much of the layer shows.',
      number: { value: layer.opacity, low: 0, high: 1, unit: '' },
    })
  }
  return found
}

/** An id out of a title. */
const idOf = (title: string): string =>
  title
    .toLowerCase()
    .normalize('NFD')
    .replace(/[^a-z0-9]+/g, '-')
    .replace(/^-+|-+$/g, '')
    .slice(0, 60) || 'recipe'

function controlOf(artwork: Artwork, chosen: Chosen, id: string): Control {
  const { layer, step, param, title, help, ends } = chosen
  const { layer: of } = locate(artwork.layers, layer)
  const use = step === null ? null : locateStep(of, step).step
  const spec = use ? stepAt(use.step, use.version).params[param] : undefined
  if (use ? !spec : param !== 'opacity') {
    throw new QuillError('recipe-invalid', `The control “${title}” drives nothing: there is no value “${param}” any more. Nothing was made; take it out.`)
  }
  const value = use ? carried(use.params[param] ?? spec!.default, spec, scaleOf(artwork)) : of.opacity
  const base = { id, title: title.trim() || spec?.title || 'Opacity', help }
  if (use && !NUMBERS.has(spec!.type)) return { ...base, kind: { type: 'value' }, default: value as Control['default'], drives: [{ layer, step, param }] }
  const now = spec?.type === 'length' ? (value as Length).value : (value as number)
  const { low, high } = ends ?? { low: now / 2, high: now * 2 }
  if (![low, high].every(Number.isFinite) || low === high)
    throw new QuillError('recipe-invalid', `The control “${base.title}” drives nothing: its ends are the same. Nothing was made; set them apart.`)
  const place = Math.min(100, Math.max(0, ((now - low) / (high - low)) * 100))
  const unit = spec?.type === 'length' ? { unit: (value as Length).unit } : {}
  return {
    ...base,
    // fine enough that what is shown is what the artwork has
    kind: { type: 'number', min: 0, max: 100, step: 0.1, low: 'Less', high: 'More' },
    default: Number(place.toFixed(4)),
    drives: [
      {
        layer,
        step,
        param,
        map: [
          [0, low],
          [100, high],
        ],
        ...unit,
      },
    ],
  }
}

/**
 * A recipe of an artwork's layers, the photo left open. What is painted stays behind, as do placements' photos; lengths in pixels become shares of the photo,
 * so that they fit others. Controls of recipes that the artwork was made with are kept where `keep` says so.
 * @throws QuillError `missing-photo`, `control-invalid`, `recipe-invalid`
 */
export function ownRecipe(artwork: Artwork, given: { title: string; help: string; controls: readonly Chosen[]; keep?: boolean }): Recipe {
  const title = given.title.trim()
  if (!title) throw new QuillError('recipe-invalid', 'A recipe needs a title. Nothing was made.')
  const photo = firstPhoto(artwork.layers)?.source
  if (!photo) throw new QuillError('missing-photo', 'A recipe is put on a photo, and this artwork has none. Nothing was made.')
  const scale = scaleOf(artwork)
  const opened = (layer: Layer): Layer => {
    const made = JSON.parse(JSON.stringify(layer)) as Layer
    const { source } = made
    if (source.type === 'photo' && source.asset === photo.asset) made.source = { type: 'open-photo' }
    if (source.type === 'paint') source.plane = null
    if (source.type === 'mend') delete source.mended
    if (source.type === 'ink') source.blob = null
    if (source.type === 'group') source.layers = source.layers.map(opened)
    if (source.type === 'panels') {
      delete source.box
      for (const gap of ['gutter', 'margin'] as const) source[gap] = carried(source[gap], { type: 'length' } as ParamSpec, scale) as Length
    }
    if (made.mask) made.mask.plane = null
    if (made.lightMap) made.lightMap.plane = null
    made.study = null
    made.chain = made.chain.map((use): StepUse => {
      const { params } = stepAt(use.step, use.version)
      if (use.mask) use.mask.plane = null
      return { ...use, params: Object.fromEntries(Object.entries(use.params).map(([k, v]) => [k, carried(v, params[k], scale)])) }
    })
    return made
  }
  const used = new Set(
    [...allLayers(artwork.layers)].flatMap((l) =>
      l.source.type === 'panels' ? [...l.source.colourways, ...l.source.panels.flatMap((p) => p.colourway ?? [])] : [],
    ),
  )
  const colourways = artwork.colourways.filter((c) => used.has(c.id))
  const made = given.controls.map((c, i) => controlOf(artwork, c, `own-${i + 1}`))
  const kept = given.keep
    ? artwork.recipes.flatMap((use, i) =>
        use.controls
          .filter((c) => c.drives.length > 0)
          .map((c): Control => ({
            ...(JSON.parse(JSON.stringify(c)) as Control),
            id: `kept-${i + 1}-${c.id}`.slice(0, 40),
            default: use.values[c.id] ?? c.default,
          })),
      )
    : []
  const controls = [...made, ...kept]
  if (controls.length > MOST_CONTROLS)
    throw new QuillError('recipe-invalid', `A recipe has at most ${MOST_CONTROLS} controls; these are ${controls.length}. Nothing was made; take some out.`)
  return loadRecipe({
    format: RECIPE_FORMAT,
    version: RECIPE_VERSION,
    id: idOf(title),
    edition: 1,
    title: title.slice(0, 120),
    help: given.help.trim().slice(0, 400) || 'Made from an artwork.',
    layers: artwork.layers.map(opened),
    controls,
    ...(colourways.length ? { colourways } : {}),
    retouch: null,
  })
}
