import { QuillError } from '../base/errors.ts'
import { freshId, renameLayers } from './layers.ts'
import { checkStep } from './load.ts'
import type { Colourway } from './colourways.ts'
import type { Artwork, Control, ControlValue, Drive, Layer, Recipe, RecipeUse, Source, StepUse } from './schema.ts'

/** The value a drive gives its parameter for a value of the control. */
export function driven(drive: Drive, value: number | string): unknown {
  if (drive.choose) return drive.choose[String(value)]
  const v = Number(value)
  const map = drive.map ?? [
    [0, 0],
    [1, 1],
  ]
  let i = 0
  while (i < map.length - 2 && v > map[i + 1]![0]) i++
  const [x0, y0] = map[i]!
  const [x1, y1] = map[i + 1]!
  const t = Math.min(1, Math.max(0, (v - x0) / (x1 - x0)))
  const out = y0 + (y1 - y0) * t
  // stored values are read by people
  const tidy = Number(out.toPrecision(6))
  return drive.unit ? { value: tidy, unit: drive.unit } : tidy
}

/** Checks a control's value. Throws `param-invalid`. */
export function checkControl(control: Control, value: ControlValue): ControlValue {
  const { kind } = control
  // of a parameter's type: checked by the steps it is written into
  if (kind.type === 'value') return value
  if (kind.type === 'number') {
    const v = typeof value === 'number' ? value : typeof value === 'string' && value.trim() !== '' ? Number(value) : NaN
    if (!(v >= kind.min && v <= kind.max)) {
      throw new QuillError('param-invalid', `“${control.id}” takes a number from ${kind.min} to ${kind.max}; “${String(value)}” is not one.`, {
        control: control.id,
        min: kind.min,
        max: kind.max,
      })
    }
    return v
  }
  const valid = kind.options.map((o) => o.value)
  if (typeof value !== 'string' || !valid.includes(value)) {
    throw new QuillError('param-invalid', `“${control.id}” is one of ${valid.join(', ')}; “${String(value)}” is not.`, { control: control.id, valid })
  }
  return value
}

/** Writes the values that a control drives into the layers (in place, on a draft or a fresh copy). */
export function drive(layers: Layer[], control: Control, value: ControlValue): void {
  const plain = control.kind.type === 'value'
  const valueFor = (d: Drive): unknown => (plain ? value : driven(d, value as number | string))
  const visit = (list: Layer[]) => {
    for (const layer of list) {
      if (layer.source.type === 'group') visit(layer.source.layers)
      for (const d of control.drives) {
        if (d.layer !== layer.id) continue
        if (d.step === null && d.param === 'opacity') layer.opacity = valueFor(d) as number
        else if (d.step === null) {
          if (layer.source.type === 'panels') layer.source = { ...layer.source, [d.param]: valueFor(d) }
        } else {
          const step = layer.chain.find((s) => s.id === d.step)
          if (!step) continue
          step.params = { ...step.params, [d.param]: valueFor(d) }
          if (plain) step.params = checkStep(JSON.parse(JSON.stringify(step)) as StepUse).params
        }
      }
    }
  }
  visit(layers)
}

/** The control with this id. Throws `unknown-control`. */
export function controlById(controls: readonly Control[], id: string): Control {
  const control = controls.find((c) => c.id === id)
  if (!control) {
    const valid = controls.map((c) => c.id)
    throw new QuillError('unknown-control', `There is no control called “${id}”. Controls are: ${valid.join(', ')}.`, { id, valid })
  }
  return control
}

/**
 * Layers of a recipe put on a photo, with fresh ids and its controls at `values` (defaults elsewhere).
 * @param photo the source that takes the open photo's place
 */
export function instantiate(
  recipe: Recipe,
  photo: Source,
  values: Record<string, ControlValue> = {},
  makeId: () => string = freshId,
): { layers: Layer[]; use: RecipeUse; colourways: Colourway[] } {
  const ids = new Map<string, string>()
  const renamed = (name: string) => {
    let fresh = ids.get(name)
    if (!fresh) ids.set(name, (fresh = makeId()))
    return fresh
  }
  // a recipe's layers and steps may be called alike; in an artwork every id is its own
  const layerId = (id: string) => renamed(`layer ${id}`)
  const stepId = (layer: string, id: string) => renamed(`step ${layer} ${id}`)
  const wayId = (id: string) => renamed(`way ${id}`)
  const copy = (layer: Layer): Layer => {
    const { source } = layer
    const made = structuredClone(source.type === 'group' ? { ...layer, source: { ...source, layers: [] } } : layer)
    renameLayers(made, layerId)
    if (source.type === 'group') made.source = { ...source, layers: source.layers.map(copy) }
    if (source.type === 'open-photo') made.source = photo
    if (made.source.type === 'panels') {
      made.source.colourways = made.source.colourways.map(wayId)
      for (const p of made.source.panels) if (p.colourway !== null) p.colourway = wayId(p.colourway)
    }
    for (const use of made.chain) use.id = stepId(layer.id, use.id)
    made.id = layerId(layer.id)
    return made
  }
  const layers = recipe.layers.map(copy)
  const controls = recipe.controls.map((c) => ({
    ...c,
    drives: c.drives.map((d) => ({ ...d, layer: layerId(d.layer), step: d.step === null ? null : stepId(d.layer, d.step) })),
  }))
  const use: RecipeUse = {
    id: makeId(),
    recipe: recipe.id,
    edition: recipe.edition,
    title: recipe.title,
    controls,
    values: {},
    retouch: recipe.retouch && { above: layerId(recipe.retouch.above) },
  }
  for (const id of Object.keys(values)) controlById(controls, id)
  for (const c of controls) {
    const value = checkControl(c, values[c.id] ?? c.default)
    use.values[c.id] = value
    drive(layers, c, value)
  }
  return { layers, use, colourways: (recipe.colourways ?? []).map((c) => ({ ...structuredClone(c), id: wayId(c.id) })) }
}

/** An artwork of one photo made by a recipe. Throws as instantiate. */
export function madeBy(artwork: Artwork, recipe: Recipe, values: Record<string, ControlValue> = {}, makeId?: () => string): Artwork {
  const { layers, use, colourways } = instantiate(recipe, artwork.layers[0]!.source, values, makeId)
  return { ...artwork, layers, recipes: [use], colourways: [...artwork.colourways, ...colourways] }
}
