import { enablePatches, produceWithPatches, applyPatches, type Patch } from 'immer'
import { blendModeTitle, type BlendMode } from '../blend/modes.ts'
import type { Span } from '../blend/span.ts'
import { findLiveCycle } from './cycles.ts'
import { QuillError } from '../base/errors.ts'
import { stepAt } from '../steps/registry.ts'
import { formatParam } from '../steps/params/index.ts'
import { allLayers, freshId, locate, locateStep, namedLayers, renameLayers } from './layers.ts'
import { checkStep } from './load.ts'
import { checkControl, controlById, drive } from './recipe.ts'
import { addressName, planeAt, type PlaneAddress, type PlaneRef } from './planes.ts'
import type { ControlValue, Artwork, Layer, Mask, RecipeUse, StepUse } from './schema.ts'

enablePatches()

/** Everything that can be done to an artwork. New things carry their ids, so that a command replayed gives the same. */
export type Command =
  | { type: 'set-title'; title: string }
  | { type: 'set-look-spot'; x: number; y: number }
  /** Degrees: where the light comes from, counter-clockwise from the right, and how high it stands. */
  | { type: 'set-lamp'; direction: number; height: number }
  | { type: 'set-ppi'; ppi: number }
  | { type: 'add-layer'; layer: Layer; index: number; list?: string | null }
  | { type: 'remove-layer'; layer: string }
  | { type: 'duplicate-layer'; layer: string; ids?: string[] }
  | { type: 'move-layer'; layer: string; index: number }
  | { type: 'rename-layer'; layer: string; name: string }
  | { type: 'set-layer'; layer: string; visible?: boolean; opacity?: number; blend?: BlendMode; span?: Span | null }
  | { type: 'set-fill'; layer: string; colour: string; alpha: number }
  | { type: 'add-step'; layer: string; index: number; step: StepUse }
  | { type: 'remove-step'; layer: string; step: string }
  | { type: 'move-step'; layer: string; step: string; toLayer: string; index: number }
  | { type: 'set-step'; layer: string; step: string; on?: boolean; opacity?: number; blend?: BlendMode; span?: Span | null }
  | { type: 'set-params'; layer: string; step: string; params: Record<string, unknown>; name: string }
  | { type: 'set-param'; layer: string; step: string; param: string; value: unknown }
  /** The whole mask of a layer (`step` null) or a step; null: none. */
  | { type: 'set-mask'; layer: string; step: string | null; mask: Mask }
  /** What of a mask is decided besides painting it. */
  | { type: 'tune-mask'; layer: string; step: string | null; change: MaskChange }
  | { type: 'set-light-map'; layer: string; lightMap: Layer['lightMap'] }
  /** What a stroke left, or a filling. `what`: how it is called in the history. */
  | { type: 'paint'; at: PlaneAddress; plane: PlaneRef | null; what: string }
  | { type: 'apply-recipe'; layers: Layer[]; use: RecipeUse; replace: boolean }
  | { type: 'set-control'; use: string; control: string; value: ControlValue }

/** What can be changed of a mask by a control. */
export type MaskChange = Partial<Pick<NonNullable<Mask>, 'start' | 'turnedRound' | 'edge' | 'strength' | 'thins' | 'live'>>

/** A done edit: how it is called in the history, and the patches both ways. */
export interface Edit {
  title: string
  patches: Patch[]
  inverse: Patch[]
}

const percentText = (v: number) => `${Math.round(v * 100)} %`

function titleOf(a: Artwork, c: Command): string {
  const layerName = (id: string) => locate(a.layers, id).layer.name
  const stepTitle = (layer: string, step: string) => {
    const use = locateStep(locate(a.layers, layer).layer, step).step
    return stepAt(use.step, use.version).title
  }
  switch (c.type) {
    case 'set-title':
      return `Rename artwork to “${c.title}”`
    case 'set-look-spot':
      return 'Move the look spot'
    case 'set-lamp':
      return 'Move the lamp'
    case 'set-ppi':
      return `Sheet at ${c.ppi} ppi`
    case 'add-layer':
      return `Add layer “${c.layer.name}”`
    case 'remove-layer':
      return `Delete layer “${layerName(c.layer)}”`
    case 'duplicate-layer':
      return `Duplicate layer “${layerName(c.layer)}”`
    case 'move-layer':
      return `Move layer “${layerName(c.layer)}”`
    case 'rename-layer':
      return `Rename layer to “${c.name}”`
    case 'set-layer': {
      const name = layerName(c.layer)
      if (c.visible !== undefined) return `${c.visible ? 'Show' : 'Hide'} layer “${name}”`
      if (c.blend !== undefined) return `Blend of “${name}” to ${blendModeTitle(c.blend)}`
      if (c.span !== undefined) return c.span ? `Tonal span of “${name}”` : `“${name}” acts on all tones`
      return `Opacity of “${name}” to ${percentText(c.opacity ?? 1)}`
    }
    case 'set-fill':
      return `Colour of “${layerName(c.layer)}” to ${c.colour}`
    case 'add-step':
      return `Add ${stepAt(c.step.step, c.step.version).title}`
    case 'remove-step':
      return `Delete ${stepTitle(c.layer, c.step)}`
    case 'move-step':
      return `Move ${stepTitle(c.layer, c.step)}`
    case 'set-step': {
      const title = stepTitle(c.layer, c.step)
      if (c.on !== undefined) return `Switch ${title} ${c.on ? 'on' : 'off'}`
      if (c.blend !== undefined) return `Blend of ${title} to ${blendModeTitle(c.blend)}`
      if (c.span !== undefined) return c.span ? `Tonal span of ${title}` : `${title} acts on all tones`
      return `Opacity of ${title} to ${percentText(c.opacity ?? 1)}`
    }
    case 'set-param': {
      const { step } = locateStep(locate(a.layers, c.layer).layer, c.step)
      const def = stepAt(step.step, step.version)
      const spec = def.params[c.param]
      return spec ? `${def.title}: ${spec.title} to ${formatParam(spec, c.value)}` : def.title
    }
    case 'set-params':
      return `${stepTitle(c.layer, c.step)}: ${c.name}`
    case 'set-mask': {
      const of = c.step === null ? `“${layerName(c.layer)}”` : stepTitle(c.layer, c.step)
      return c.mask ? `Mask of ${of}` : `Take the mask off ${of}`
    }
    case 'tune-mask': {
      const of = c.step === null ? `“${layerName(c.layer)}”` : stepTitle(c.layer, c.step)
      const { change } = c
      if (change.turnedRound !== undefined) return `Turn the mask of ${of} round`
      if (change.strength !== undefined) return `Mask of ${of} at ${percentText(change.strength)}`
      if (change.thins !== undefined) return `Mask of ${of} ${change.thins ? 'thins its marks' : 'fades'}`
      if (change.start !== undefined) return `Mask of ${of} starts ${change.start}`
      if (change.live !== undefined) return change.live ? `Mask of ${of} from “${layerName(change.live.layer)}”, live` : `Mask of ${of} by hand`
      return `Edge of the mask of ${of}`
    }
    case 'set-light-map':
      return c.lightMap ? `Light map of “${layerName(c.layer)}”` : `Take the light map off “${layerName(c.layer)}”`
    case 'paint':
      return `${c.what} on ${addressName(a, c.at, (step) => stepTitle(c.at.layer, step))}`
    case 'apply-recipe':
      return `Recipe ${c.use.title}`
    case 'set-control': {
      const use = a.recipes.find((r) => r.id === c.use)
      const control = use && controlById(use.controls, c.control)
      const shown = control?.kind.type === 'choice' ? control.kind.options.find((o) => o.value === c.value)?.title : c.value
      return `${use?.title ?? 'Recipe'}: ${control?.title ?? c.control} to ${shown}`
    }
  }
}

/** Controls let go of layers and steps that are no longer there; a recipe that drives nothing is forgotten. */
function tidyRecipes(draft: Artwork): void {
  if (draft.recipes.length === 0) return
  const there = new Map([...allLayers(draft.layers)].map((l) => [l.id, new Set(l.chain.map((s) => s.id))]))
  for (const use of draft.recipes) {
    for (const c of use.controls) {
      const kept = c.drives.filter((d) => there.has(d.layer) && (d.step === null || there.get(d.layer)!.has(d.step)))
      if (kept.length !== c.drives.length) c.drives = kept
    }
  }
  const used = draft.recipes.filter((u) => u.controls.some((c) => c.drives.length > 0))
  if (used.length !== draft.recipes.length) draft.recipes = used
}

/** Typing over a driven value sets it free. */
function setFree(draft: Artwork, layer: string, step: string | null, param: string): void {
  for (const use of draft.recipes) {
    for (const c of use.controls) {
      const kept = c.drives.filter((d) => !(d.layer === layer && d.step === step && (step === null || d.param === param)))
      if (kept.length !== c.drives.length) c.drives = kept
    }
  }
}

/** The layer or step whose mask is meant. */
const maskOwner = (draft: Artwork, layer: string, step: string | null): { mask: Mask } => {
  const at = locate(draft.layers, layer).layer
  return step === null ? at : locateStep(at, step).step
}

/** A span whose ends are in order and inside the scale. */
function checkSpan(span: Span): Span {
  const held = (v: number) => Math.min(1, Math.max(0, v))
  const low = held(span.low)
  return { low, high: Math.max(low, held(span.high)), softLow: held(span.softLow), softHigh: held(span.softHigh) }
}

/** The lowest a lamp may stand, degrees: below it a relief is all shadow. */
const LOWEST = 5
const clampIndex = (i: number, n: number) => Math.max(0, Math.min(n, Math.trunc(i)))

function change(draft: Artwork, c: Command): void {
  switch (c.type) {
    case 'set-title': {
      const title = c.title.trim()
      if (!title) throw new QuillError('command-refused', 'An artwork needs a title.')
      draft.title = title.slice(0, 200)
      return
    }
    case 'set-look-spot': {
      const { x, y, w, h } = draft.sheet
      draft.lookSpot = { x: Math.round(Math.min(x + w, Math.max(x, c.x))), y: Math.round(Math.min(y + h, Math.max(y, c.y))) }
      return
    }
    case 'set-lamp': {
      if (![c.direction, c.height].every(Number.isFinite))
        throw new QuillError('param-invalid', 'The lamp stands somewhere in degrees. It is left where it was.')
      const direction = ((((c.direction + 180) % 360) + 360) % 360) - 180
      draft.lamp = { direction, height: Math.min(90, Math.max(LOWEST, c.height)) }
      return
    }
    case 'set-ppi':
      if (!(c.ppi >= 1 && c.ppi <= 10000)) throw new QuillError('param-invalid', `A sheet has 1 to 10000 pixels per inch; ${c.ppi} is left out.`)
      draft.sheet.ppi = c.ppi
      draft.sheet.sized = true
      return
    case 'add-layer': {
      let list = draft.layers
      if (c.list) {
        const group = locate(draft.layers, c.list).layer
        if (group.source.type !== 'group') throw new QuillError('command-refused', `“${group.name}” is not a group.`)
        list = group.source.layers
      }
      list.splice(clampIndex(c.index, list.length), 0, structuredClone(c.layer))
      return
    }
    case 'remove-layer': {
      const { list, index, layer } = locate(draft.layers, c.layer)
      const gone = new Set([layer, ...(layer.source.type === 'group' ? allLayers(layer.source.layers) : [])].map((l) => l.id))
      for (const other of allLayers(draft.layers)) {
        if (!gone.has(other.id) && namedLayers(other).some((id) => gone.has(id))) {
          throw new QuillError(
            'command-refused',
            `“${layer.name}” cannot be deleted: “${other.name}” is made from it, live. Delete that layer first, or hide this one.`,
            { layer: layer.id, usedBy: other.id },
          )
        }
      }
      list.splice(index, 1)
      tidyRecipes(draft)
      return
    }
    case 'duplicate-layer': {
      const { list, index, layer } = locate(draft.layers, c.layer)
      const ids = [...(c.ids ?? [])]
      const next = () => ids.shift() ?? freshId()
      const renamed = new Map<string, string>()
      const copyOf = (l: Layer): Layer => {
        const id = next()
        renamed.set(l.id, id)
        return {
          ...(JSON.parse(JSON.stringify(l)) as Layer),
          id,
          chain: l.chain.map((s) => ({ ...(JSON.parse(JSON.stringify(s)) as StepUse), id: next() })),
          source: l.source.type === 'group' ? { ...l.source, layers: l.source.layers.map(copyOf) } : { ...l.source },
        }
      }
      const copy = copyOf(layer)
      for (const l of allLayers([copy])) {
        renameLayers(l, (id) => renamed.get(id) ?? id)
      }
      copy.name = `${layer.name} copy`.slice(0, 120)
      list.splice(index + 1, 0, copy)
      return
    }
    case 'move-layer': {
      const { list, index, layer } = locate(draft.layers, c.layer)
      const copy = JSON.parse(JSON.stringify(layer)) as Layer
      list.splice(index, 1)
      list.splice(clampIndex(c.index, list.length), 0, copy)
      return
    }
    case 'rename-layer': {
      const name = c.name.trim()
      if (!name) throw new QuillError('command-refused', 'A layer needs a name.')
      locate(draft.layers, c.layer).layer.name = name.slice(0, 120)
      return
    }
    case 'set-layer': {
      const { layer } = locate(draft.layers, c.layer)
      if (c.visible !== undefined) layer.visible = c.visible
      if (c.blend !== undefined) layer.blend = c.blend
      if (c.opacity !== undefined) {
        layer.opacity = Math.min(1, Math.max(0, c.opacity))
        setFree(draft, c.layer, null, 'opacity')
      }
      if (c.span !== undefined) layer.span = c.span && checkSpan(c.span)
      return
    }
    case 'set-fill': {
      const { layer } = locate(draft.layers, c.layer)
      if (layer.source.type !== 'fill') throw new QuillError('command-refused', `“${layer.name}” is not a fill.`)
      if (!/^#[0-9a-f]{6}$/i.test(c.colour)) throw new QuillError('param-invalid', `“${c.colour}” is not a colour written as #rrggbb.`)
      layer.source = { type: 'fill', colour: c.colour, alpha: Math.min(1, Math.max(0, c.alpha)) }
      return
    }
    case 'add-step': {
      const { layer } = locate(draft.layers, c.layer)
      layer.chain.splice(clampIndex(c.index, layer.chain.length), 0, checkStep(c.step))
      return
    }
    case 'remove-step': {
      const { layer } = locate(draft.layers, c.layer)
      layer.chain.splice(locateStep(layer, c.step).index, 1)
      tidyRecipes(draft)
      return
    }
    case 'move-step': {
      const from = locate(draft.layers, c.layer).layer
      const { index, step } = locateStep(from, c.step)
      const copy = JSON.parse(JSON.stringify(step)) as StepUse
      from.chain.splice(index, 1)
      const to = locate(draft.layers, c.toLayer).layer
      to.chain.splice(clampIndex(c.index, to.chain.length), 0, copy)
      if (c.toLayer !== c.layer) {
        for (const use of draft.recipes) for (const k of use.controls) for (const d of k.drives) if (d.step === c.step) d.layer = c.toLayer
      }
      return
    }
    case 'set-step': {
      const { step } = locateStep(locate(draft.layers, c.layer).layer, c.step)
      if (c.on !== undefined) step.on = c.on
      if (c.blend !== undefined) step.blend = c.blend
      if (c.opacity !== undefined) step.opacity = Math.min(1, Math.max(0, c.opacity))
      if (c.span !== undefined) step.span = c.span && checkSpan(c.span)
      return
    }
    case 'set-params': {
      const { layer } = locate(draft.layers, c.layer)
      const { step } = locateStep(layer, c.step)
      const plain = JSON.parse(JSON.stringify(step)) as StepUse
      step.params = checkStep({ ...plain, params: { ...plain.params, ...c.params } }).params
      for (const param of Object.keys(c.params)) setFree(draft, c.layer, plain.id, param)
      return
    }
    case 'set-param': {
      const { layer } = locate(draft.layers, c.layer)
      const { index, step } = locateStep(layer, c.step)
      const plain = JSON.parse(JSON.stringify(step)) as StepUse
      step.params[c.param] = checkStep({ ...plain, params: { ...plain.params, [c.param]: c.value } }).params[c.param]
      setFree(draft, c.layer, layer.chain[index]!.id, c.param)
      return
    }
    case 'set-mask': {
      maskOwner(draft, c.layer, c.step).mask = c.mask && structuredClone(c.mask)
      return
    }
    case 'tune-mask': {
      const { mask } = maskOwner(draft, c.layer, c.step)
      if (!mask) throw new QuillError('command-refused', 'There is no mask to change here.')
      // tiles that were painted on hold what it began with round the strokes
      if (c.change.start !== undefined && mask.plane && c.change.start !== mask.start)
        throw new QuillError('command-refused', 'What a mask starts with is decided before it is painted. Turn it round instead, or let all through first.')
      const { edge, strength, ...rest } = structuredClone(c.change)
      Object.assign(mask, rest)
      if (edge !== undefined) {
        if (![edge.move, edge.soften.value].every(Number.isFinite) || edge.soften.value < 0)
          throw new QuillError('param-invalid', 'The edge of a mask is moved and softened by lengths. It is left as it was.')
        mask.edge = edge
      }
      if (strength !== undefined) mask.strength = Math.min(1, Math.max(0, strength))
      return
    }
    case 'set-light-map': {
      const { layer } = locate(draft.layers, c.layer)
      layer.lightMap = c.lightMap && { ...structuredClone(c.lightMap), span: c.lightMap.span && checkSpan(c.lightMap.span) }
      return
    }
    case 'paint': {
      const there = planeAt(draft, c.at)
      if (!there) throw new QuillError('command-refused', 'What was painted on is no longer there. The stroke is left out.')
      if (c.plane && c.plane.channels !== there.channels)
        throw new QuillError('command-refused', 'A mask has one channel, paint has four. The stroke is left out.')
      const { layer } = locate(draft.layers, c.at.layer)
      if (c.at.part === 'light') layer.lightMap!.plane = c.plane
      else if (c.at.part === 'mask') maskOwner(draft, c.at.layer, c.at.step).mask!.plane = c.plane
      else if (layer.source.type === 'paint') layer.source.plane = c.plane
      return
    }
    case 'apply-recipe': {
      if (c.replace) {
        draft.layers = structuredClone(c.layers)
        draft.recipes = [structuredClone(c.use)]
      } else {
        draft.layers.push(...structuredClone(c.layers))
        draft.recipes.push(structuredClone(c.use))
      }
      return
    }
    case 'set-control': {
      const use = draft.recipes.find((r) => r.id === c.use)
      if (!use) throw new QuillError('unknown-recipe', 'This artwork no longer uses that recipe.')
      const control = controlById(use.controls, c.control)
      const value = checkControl(control, c.value)
      use.values[c.control] = value
      drive(draft.layers, control, value)
      return
    }
  }
}

/**
 * Does a command to an artwork, which itself stays as it was.
 * @returns the new artwork and the edit, with patches both ways
 * @throws QuillError when the command makes no sense here; nothing is changed then
 */
export function perform(artwork: Artwork, command: Command): { artwork: Artwork; edit: Edit } {
  const title = titleOf(artwork, command)
  const [next, patches, inverse] = produceWithPatches(artwork, (draft) => change(draft as Artwork, command))
  const cycle = findLiveCycle(next.layers)
  if (cycle) throw new QuillError('live-cycle', `This would make layers out of each other in a circle: ${cycle.join(' → ')}.`, { layers: cycle })
  return { artwork: next, edit: { title, patches, inverse } }
}

/** Applies patches of an edit, one way or the other. */
export function applyEdit(artwork: Artwork, patches: Patch[]): Artwork {
  return applyPatches(artwork, patches)
}
