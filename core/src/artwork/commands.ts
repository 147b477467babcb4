import { enablePatches, produceWithPatches, applyPatches, type Patch } from 'immer'
import { blendModeTitle, type BlendMode } from '../blend/modes.ts'
import type { Span } from '../blend/span.ts'
import type { Region } from '../base/region.ts'
import type { Matrix, Point } from '../base/transform.ts'
import { findLiveCycle } from './cycles.ts'
import { QuillError } from '../base/errors.ts'
import { stepAt } from '../steps/registry.ts'
import { formatParam } from '../steps/params/index.ts'
import { copyOfLayer, groupLayers, inTheirOrder, listOf, lockedBy, makeOwn, moveLayers, removeLayers, ungroup } from './arrange.ts'
import { checkBounds } from './bounds.ts'
import { allLayers, freshId, locate, locateStep, newLayer, replacePhoto } from './layers.ts'
import { checkStep } from './load.ts'
import { paperById, type PaperSource } from './papers.ts'
import { resizeArtwork, setFrame, turnArtwork, type PlaneChange } from './framing.ts'
import { setPanels, takePanelOut, type PanelChange } from './panels.ts'
import { refused } from './placing.ts'
import { ownExtent } from './spaces.ts'
import { checkControl, controlById, drive } from './recipe.ts'
import { addressName, planeAt, setPlane, type PlaneAddress, type PlaneRef } from './planes.ts'
import { MOST_MENDED, type ControlValue, type Artwork, type Layer, type Mask, type Mended, type RecipeUse, type StepUse } from './schema.ts'

enablePatches()

/** Everything that can be done to an artwork. New things carry their ids, so that a command replayed gives the same. */
export type Command =
  | { type: 'set-title'; title: string }
  /** All as it was in a kept state, but the title. */
  | { type: 'restore-state'; state: Artwork; name: string }
  | { type: 'set-look-spot'; x: number; y: number }
  /** Degrees: where the light comes from, counter-clockwise from the right, and how high it stands. */
  | { type: 'set-lamp'; direction: number; height: number }
  | { type: 'set-ppi'; ppi: number }
  /** The frame, moved; what it leaves out stays. `what`: how it is called in the history. */
  | { type: 'set-frame'; frame: Region; what: string }
  /** The sheet so many pixels wide with all that is on it; `planes`: all that is painted, scaled likewise. */
  | { type: 'resize-artwork'; width: number; planes: PlaneChange[] }
  /** All on the sheet turned; `planes`: what is painted on the sheet itself, turned likewise. */
  | { type: 'turn-artwork'; by: Matrix; frame: Region; planes: PlaneChange[]; what: string }
  /** Real stock: papers, grounds and relief are left out; marks stay broken by the tooth, or close. */
  | { type: 'set-stock'; real: boolean; marks: 'broken' | 'closed' }
  | { type: 'add-layer'; layer: Layer; index: number; list?: string | null }
  | { type: 'remove-layer'; layer: string }
  | { type: 'remove-layers'; layers: string[] }
  /** `live`: made of it, and changed with it. */
  | { type: 'duplicate-layer'; layer: string; ids?: string[]; live?: boolean }
  | { type: 'make-own'; layer: string; ids?: string[] }
  | { type: 'move-layer'; layer: string; index: number }
  /** Into a group, or (list null) out of all; `index` is counted while they are still where they were. */
  | { type: 'move-layers'; layers: string[]; list: string | null; index: number }
  | { type: 'group-layers'; layers: string[]; group: string; name: string }
  | { type: 'ungroup'; layer: string }
  /** One layer in their place, where the highest of them stood. */
  | { type: 'merge-layers'; layers: string[]; layer: Layer }
  | { type: 'rename-layer'; layer: string; name: string }
  | ({ type: 'set-layer'; layer: string } & LayerChange)
  | { type: 'set-fill'; layer: string; colour: string; alpha: number }
  /** Another ink on a layer of ink, or another colour. `what`: how it is called in the history. */
  | { type: 'set-ink'; layer: string; blob?: string | null; colour?: string; what: string }
  /** The mended places of a layer, all of them. */
  | { type: 'set-mended'; layer: string; mended: Mended[]; what: string }
  | { type: 'set-gradient'; layer: string; change: GradientChange }
  | { type: 'set-paper'; layer: string; change: Partial<Omit<PaperSource, 'type'>> }
  /** Another photo in the place of one, wherever it is shown. */
  | { type: 'replace-photo'; from: string; to: { asset: string; width: number; height: number }; name: string }
  | { type: 'set-panels'; layer: string; change: PanelChange; what: string }
  /** A panel becomes a live layer of its own, under this id. */
  | { type: 'take-panel'; layer: string; row: number; column: number; id: string }
  | { type: 'set-colourways'; colourways: Artwork['colourways']; what: string }
  /** Where layers are laid; `what`: how it is called in the history. */
  | { type: 'place-layers'; layers: { layer: string; matrix: Matrix; pivot?: Point | null }[]; what: string }
  /** Spots round which techniques go finer, besides the look spot. */
  | { type: 'set-pins'; pins: Artwork['pins']; what: string }
  /** Areas kept by name, all of them. */
  | { type: 'set-areas'; areas: Artwork['areas']; what: string }
  | { type: 'set-guides'; guides: Artwork['guides']; what: string }
  | { type: 'add-step'; layer: string; index: number; step: StepUse }
  | { type: 'remove-step'; layer: string; step: string }
  /** Some steps of a layer in another order, in the places that they have between the others. */
  | { type: 'order-steps'; layer: string; steps: string[] }
  | { type: 'move-step'; layer: string; step: string; toLayer: string; index: number }
  | { type: 'set-step'; layer: string; step: string; on?: boolean; opacity?: number; blend?: BlendMode; span?: Span | null }
  | { type: 'set-params'; layer: string; step: string; params: Record<string, unknown>; name: string }
  | { type: 'set-param'; layer: string; step: string; param: string; value: unknown }
  /** Another picture that a step reads, by its name; null: none. */
  | { type: 'set-input'; layer: string; step: string; input: string; value: StepUse['inputs'][string] | null }
  /** The whole mask of a layer (`step` null) or a step; null: none. */
  | { type: 'set-mask'; layer: string; step: string | null; mask: Mask }
  /** What of a mask is decided besides painting it. */
  | { type: 'tune-mask'; layer: string; step: string | null; change: MaskChange }
  | { type: 'set-light-map'; layer: string; lightMap: Layer['lightMap'] }
  /** What a stroke left, or a filling. `what`: how it is called in the history. */
  | { type: 'paint'; at: PlaneAddress; plane: PlaneRef | null; what: string }
  /** Instead of all there is, or besides it: then as a group under this id, so that it can be masked (`mask`: it is at once), moved and painted in as a whole. */
  | { type: 'apply-recipe'; layers: Layer[]; use: RecipeUse; replace: boolean; group?: string; mask?: Mask; colourways?: Artwork['colourways'] }
  | { type: 'set-control'; use: string; control: string; value: ControlValue }

/** What can be changed of a layer by a control. */
export interface LayerChange {
  visible?: boolean
  opacity?: number
  blend?: BlendMode
  /** Its own tones between which it acts, and those of what lies below. */
  span?: Span | null
  spanBelow?: Span | null
  locked?: boolean
  mark?: number | null
  folded?: boolean
  followsBelow?: boolean
  /** Of a group. */
  isolated?: boolean
}

/** What can be changed of a gradient layer. */
export type GradientChange = Partial<Omit<Extract<Layer['source'], { type: 'gradient' }>, 'type'>>

/** What can be changed of a mask by a control. */
export type MaskChange = Partial<Pick<NonNullable<Mask>, 'start' | 'turnedRound' | 'edge' | 'strength' | 'thins' | 'live' | 'stays'>>

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
    case 'restore-state':
      return `Back to “${c.name}”`
    case 'set-look-spot':
      return 'Move the look spot'
    case 'set-lamp':
      return 'Move the lamp'
    case 'set-ppi':
      return `Sheet at ${c.ppi} ppi`
    case 'set-frame':
    case 'turn-artwork':
      return c.what
    case 'resize-artwork':
      return `Resize to ${c.width} px across`
    case 'set-stock':
      return c.real ? `For real stock, marks ${c.marks}` : 'With papers and relief'
    case 'add-layer':
      return `Add layer “${c.layer.name}”`
    case 'remove-layer':
      return `Delete layer “${layerName(c.layer)}”`
    case 'remove-layers':
      return c.layers.length === 1 ? `Delete layer “${layerName(c.layers[0]!)}”` : `Delete ${c.layers.length} layers`
    case 'duplicate-layer':
      return `${c.live ? 'Live copy of' : 'Duplicate layer'} “${layerName(c.layer)}”`
    case 'make-own':
      return `Make “${layerName(c.layer)}” its own`
    case 'move-layers':
      return c.layers.length === 1 ? `Move layer “${layerName(c.layers[0]!)}”` : `Move ${c.layers.length} layers`
    case 'group-layers':
      return `Group ${c.layers.length === 1 ? `“${layerName(c.layers[0]!)}”` : `${c.layers.length} layers`}`
    case 'merge-layers':
      return c.layers.length === 1 ? `Merge “${layerName(c.layers[0]!)}”` : `Merge ${c.layers.length} layers`
    case 'ungroup':
      return `Ungroup “${layerName(c.layer)}”`
    case 'move-layer':
      return `Move layer “${layerName(c.layer)}”`
    case 'rename-layer':
      return `Rename layer to “${c.name}”`
    case 'set-layer': {
      const name = layerName(c.layer)
      if (c.visible !== undefined) return `${c.visible ? 'Show' : 'Hide'} layer “${name}”`
      if (c.blend !== undefined) return `Blend of “${name}” to ${blendModeTitle(c.blend)}`
      if (c.span !== undefined) return c.span ? `Tonal span of “${name}”` : `“${name}” acts with all its tones`
      if (c.spanBelow !== undefined) return c.spanBelow ? `Span of the tones below “${name}”` : `“${name}” acts on all tones below`
      if (c.locked !== undefined) return `${c.locked ? 'Lock' : 'Unlock'} “${name}”`
      if (c.mark !== undefined) return c.mark ? `Mark “${name}”` : `Take the mark off “${name}”`
      if (c.folded !== undefined) return `${c.folded ? 'Fold' : 'Unfold'} “${name}”`
      if (c.followsBelow !== undefined) return `“${name}” ${c.followsBelow ? 'follows the layer below' : 'follows no layer'}`
      if (c.isolated !== undefined) return `“${name}” is ${c.isolated ? 'isolated' : 'open'}`
      return `Opacity of “${name}” to ${percentText(c.opacity ?? 1)}`
    }
    case 'set-fill':
      return `Colour of “${layerName(c.layer)}” to ${c.colour}`
    case 'set-gradient': {
      const { stops, from, to, shape } = c.change
      const what = stops ? 'Colours' : from || to ? 'Place' : shape ? 'Shape' : 'Ends'
      return `${what} of the gradient “${layerName(c.layer)}”`
    }
    case 'set-paper':
      return `${c.change.paper !== undefined ? 'Kind' : c.change.width ? 'Width' : 'Colour'} of the paper “${layerName(c.layer)}”`
    case 'replace-photo':
      return `Replace the photo by “${c.name}”`
    case 'set-panels':
      return `${c.what} of “${layerName(c.layer)}”`
    case 'take-panel':
      return `Take panel ${c.row + 1}, ${c.column + 1} out of “${layerName(c.layer)}”`
    case 'set-colourways':
      return c.what
    case 'place-layers':
      return c.layers.length === 1 ? `${c.what} “${layerName(c.layers[0]!.layer)}”` : `${c.what} ${c.layers.length} layers`
    case 'set-guides':
    case 'set-ink':
    case 'set-mended':
    case 'set-pins':
    case 'set-areas':
      return c.what
    case 'add-step':
      return `Add ${stepAt(c.step.step, c.step.version).title}`
    case 'remove-step':
      return `Delete ${stepTitle(c.layer, c.step)}`
    case 'order-steps':
      return `Steps of “${layerName(c.layer)}” in another order`
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
    case 'set-input': {
      const def = stepAt(locateStep(locate(a.layers, c.layer).layer, c.step).step.step, locateStep(locate(a.layers, c.layer).layer, c.step).step.version)
      return `${def.inputs?.[c.input]?.title ?? c.input} of ${stepTitle(c.layer, c.step)}`
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
      if (change.stays !== undefined) return `Mask of ${of} ${change.stays ? 'stays on the sheet' : 'rides with the layer'}`
      if (change.thins !== undefined) return `Mask of ${of} ${change.thins ? 'thins its marks' : 'fades'}`
      if (change.start !== undefined) return `Mask of ${of} starts ${change.start}`
      if (change.live !== undefined) return change.live ? `Mask of ${of} from “${layerName(change.live.layer)}”, live` : `Mask of ${of} by hand`
      return `Edge of the mask of ${of}`
    }
    case 'set-light-map':
      return c.lightMap ? `Light map of “${layerName(c.layer)}”` : `Take the light map off “${layerName(c.layer)}”`
    case 'paint':
      // how an area was taken says it all
      if (c.at.part === 'area' || c.at.part === 'mend') return c.what
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
      const kept = c.drives.filter((d) => !(d.layer === layer && d.step === step && d.param === param))
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

/** Guides that an artwork has, at most. */
const MOST_GUIDES = 200
const MOST_PINS = 100
const MOST_AREAS = 100
/** The lowest a lamp may stand, degrees: below it a relief is all shadow. */
const LOWEST = 5
/** Ids that a command brings, and fresh ones when they are used up. */
function dealing(ids: readonly string[] | undefined): () => string {
  const left = [...(ids ?? [])]
  return () => left.shift() ?? freshId()
}
const plainOf = <T>(v: T): T => JSON.parse(JSON.stringify(v)) as T

/** Layers whose content or place a command would change. Showing, hiding, marking and folding change neither; nor does copying. */
function changedBy(artwork: Artwork, c: Command): readonly string[] {
  switch (c.type) {
    case 'remove-layers':
    case 'group-layers':
    case 'merge-layers':
      return c.layers
    case 'move-layers':
      return c.list ? [...c.layers, c.list] : c.layers
    case 'place-layers':
      return c.layers.map((l) => l.layer)
    case 'set-layer': {
      const { type: _, layer, visible: __, locked: ___, mark: ____, folded: _____, ...more } = c
      return Object.keys(more).length ? [layer] : []
    }
    case 'move-step':
      return [c.layer, c.toLayer]
    case 'paint':
      return c.at.part === 'area' ? [] : [c.at.layer]
    case 'set-control': {
      const drives = artwork.recipes.find((r) => r.id === c.use)?.controls.find((k) => k.id === c.control)?.drives ?? []
      const there = new Set([...allLayers(artwork.layers)].map((l) => l.id))
      return drives.map((d) => d.layer).filter((id) => there.has(id))
    }
    case 'add-layer':
      return c.list ? [c.list] : []
    case 'duplicate-layer':
    case 'rename-layer':
      return []
    default:
      return 'layer' in c ? [c.layer] : []
  }
}

/** @throws QuillError `command-refused` where a layer, or a group it is in, is locked */
function checkLocks(artwork: Artwork, c: Command): void {
  for (const id of changedBy(artwork, c)) {
    const by = lockedBy(artwork.layers, id)
    if (!by) continue
    const { layer } = locate(artwork.layers, id)
    const said = by.id === id ? `“${layer.name}” is locked` : `“${layer.name}” is in “${by.name}”, which is locked`
    throw new QuillError('command-refused', `${said}. Nothing was changed; unlock it first.`, { layer: by.id })
  }
}

/** Commands after which there may be more layers or steps than an artwork has. */
const GROWING: ReadonlySet<Command['type']> = new Set([
  'add-layer',
  'take-panel',
  'merge-layers',
  'duplicate-layer',
  'make-own',
  'group-layers',
  'move-layers',
  'apply-recipe',
  'add-step',
])

const clampIndex = (i: number, n: number) => Math.max(0, Math.min(n, Math.trunc(i)))

function change(draft: Artwork, c: Command): void {
  switch (c.type) {
    case 'set-title': {
      const title = c.title.trim()
      if (!title) throw new QuillError('command-refused', 'An artwork needs a title.')
      draft.title = title.slice(0, 200)
      return
    }
    case 'restore-state': {
      const { title: _, ...rest } = structuredClone(c.state)
      Object.assign(draft, rest)
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
    case 'set-frame':
      setFrame(draft, c.frame)
      return
    case 'resize-artwork':
      resizeArtwork(draft, c.width, c.planes)
      return
    case 'turn-artwork':
      turnArtwork(draft, c.by, c.frame, c.planes)
      return
    case 'set-stock':
      draft.stock = { papers: !c.real, relief: !c.real, marks: c.marks }
      return
    case 'add-layer': {
      const list = listOf(draft, c.list)
      list.splice(clampIndex(c.index, list.length), 0, structuredClone(c.layer))
      return
    }
    case 'remove-layer':
    case 'remove-layers':
      removeLayers(draft, c.type === 'remove-layer' ? [c.layer] : c.layers)
      tidyRecipes(draft)
      return
    case 'duplicate-layer': {
      const { list, index, layer } = locate(draft.layers, c.layer)
      const next = dealing(c.ids)
      const copy = c.live
        ? { ...newLayer('', { type: 'live', layer: layer.id }, [], next()), placement: structuredClone(plainOf(layer.placement)) }
        : copyOfLayer(layer, next)
      list.splice(index + 1, 0, { ...copy, name: `${layer.name}${c.live ? ', live' : ' copy'}`.slice(0, 120), locked: false })
      return
    }
    case 'make-own':
      makeOwn(draft, c.layer, dealing(c.ids))
      return
    case 'move-layers':
      moveLayers(draft, c.layers, c.list, c.index)
      return
    case 'group-layers':
      groupLayers(draft, c.layers, c.group, c.name.trim().slice(0, 120) || 'Group')
      return
    case 'merge-layers': {
      const members = inTheirOrder(draft.layers, c.layers)
      const { list, index } = locate(draft.layers, members.at(-1)!.id)
      list.splice(index + 1, 0, structuredClone(c.layer))
      removeLayers(draft, c.layers)
      tidyRecipes(draft)
      return
    }
    case 'ungroup':
      ungroup(draft, c.layer)
      tidyRecipes(draft)
      return
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
      if (c.spanBelow !== undefined) layer.spanBelow = c.spanBelow && checkSpan(c.spanBelow)
      if (c.locked !== undefined) layer.locked = c.locked
      if (c.mark !== undefined) layer.mark = c.mark && Math.min(8, Math.max(1, Math.trunc(c.mark)))
      if (c.folded !== undefined) layer.folded = c.folded
      if (c.followsBelow !== undefined) layer.followsBelow = c.followsBelow
      if (c.isolated !== undefined) {
        if (layer.source.type !== 'group') throw new QuillError('command-refused', `“${layer.name}” is not a group.`)
        layer.source.isolated = c.isolated
      }
      return
    }
    case 'set-fill': {
      const { layer } = locate(draft.layers, c.layer)
      if (layer.source.type !== 'fill') throw new QuillError('command-refused', `“${layer.name}” is not a fill.`)
      if (!/^#[0-9a-f]{6}$/i.test(c.colour)) throw new QuillError('param-invalid', `“${c.colour}” is not a colour written as #rrggbb.`)
      layer.source = { type: 'fill', colour: c.colour, alpha: Math.min(1, Math.max(0, c.alpha)) }
      return
    }
    case 'set-gradient': {
      const { layer } = locate(draft.layers, c.layer)
      if (layer.source.type !== 'gradient') throw new QuillError('command-refused', `“${layer.name}” is not a gradient.`)
      const now = { ...plainOf(layer.source), ...structuredClone(c.change) }
      if (now.stops.length < 2 || now.stops.some((s, i) => i > 0 && s[0] < now.stops[i - 1]![0]))
        throw new QuillError('param-invalid', 'A gradient has two stops at least, one after the other. It is left as it was.')
      if (![now.from.x, now.from.y, now.to.x, now.to.y].every((v) => Number.isFinite(v) && Math.abs(v) <= 100))
        throw new QuillError('param-invalid', 'A gradient begins and ends somewhere near the sheet. It is left as it was.')
      layer.source = now
      return
    }
    case 'set-paper': {
      const { layer } = locate(draft.layers, c.layer)
      if (layer.source.type !== 'paper') throw new QuillError('command-refused', `“${layer.name}” is not a paper.`)
      const { paper, width, colour } = c.change
      if (typeof paper === 'string' && !paperById(paper)) throw new QuillError('param-invalid', `There is no paper “${paper}”. It is left as it was.`)
      if (width && !(Number.isFinite(width.value) && width.value > 0 && width.value <= 100_000))
        throw new QuillError('param-invalid', 'A paper has a width above 0. It is left as it was.')
      if (colour && !/^#[0-9a-f]{6}$/i.test(colour)) throw new QuillError('param-invalid', `“${colour}” is not a colour written as #rrggbb.`)
      layer.source = { ...plainOf(layer.source), ...structuredClone(c.change) }
      return
    }
    case 'replace-photo':
      replacePhoto(draft, c.from, c.to)
      return
    case 'set-panels':
      setPanels(draft, locate(draft.layers, c.layer).layer, c.change)
      for (const param of Object.keys(c.change)) setFree(draft, c.layer, null, param)
      return
    case 'take-panel':
      takePanelOut(draft, locate(draft.layers, c.layer).layer, c.row, c.column, c.id)
      return
    case 'set-colourways':
      draft.colourways = structuredClone(c.colourways)
      return
    case 'place-layers': {
      for (const { layer: id, matrix, pivot } of c.layers) {
        const { layer } = locate(draft.layers, id)
        const why = refused(matrix, ownExtent(draft, layer), layer.name)
        if (why) throw new QuillError('command-refused', why, { layer: id })
        layer.placement.matrix = [...matrix]
        if (pivot !== undefined) layer.placement.pivot = pivot && { ...pivot }
      }
      return
    }
    case 'set-guides': {
      if (c.guides.length > MOST_GUIDES)
        throw new QuillError('command-refused', `An artwork has at most ${MOST_GUIDES} guides. Nothing was changed; take some away.`)
      if (!c.guides.every((g) => Number.isFinite(g.at))) throw new QuillError('param-invalid', 'A guide lies somewhere on the sheet. It is left as it was.')
      draft.guides = structuredClone(c.guides)
      return
    }
    case 'set-ink': {
      const { source } = locate(draft.layers, c.layer).layer
      if (source.type !== 'ink') throw new QuillError('command-refused', 'The layer is not one of ink. Nothing was changed.')
      if (c.blob !== undefined) source.blob = c.blob
      if (c.colour !== undefined) {
        if (!/^#[0-9a-f]{6}$/i.test(c.colour)) throw new QuillError('param-invalid', 'A colour is written as #rrggbb. It is left as it was.')
        source.colour = c.colour
      }
      return
    }
    case 'set-pins': {
      if (c.pins.length > MOST_PINS)
        throw new QuillError('command-refused', `An artwork has at most ${MOST_PINS} detail pins. Nothing was changed; take some away.`)
      if (!c.pins.every((p) => [p.x, p.y, p.radius.value].every(Number.isFinite) && p.radius.value > 0))
        throw new QuillError('param-invalid', 'A detail pin stands somewhere and reaches some way round. It is left as it was.')
      draft.pins = structuredClone(c.pins)
      return
    }
    case 'set-mended': {
      const { source } = locate(draft.layers, c.layer).layer
      if (source.type !== 'mend') throw new QuillError('command-refused', 'That layer mends nothing. Nothing was changed.')
      if (c.mended.length > MOST_MENDED)
        throw new QuillError('command-refused', `A layer mends at most ${MOST_MENDED} places. Nothing was changed; begin another mending layer above it.`)
      source.mended = structuredClone(c.mended).map((m) => ({ ...m, dx: Math.round(m.dx) + 0, dy: Math.round(m.dy) + 0 }))
      return
    }
    case 'set-areas': {
      if (c.areas.length > MOST_AREAS)
        throw new QuillError('command-refused', `An artwork keeps at most ${MOST_AREAS} areas. Nothing was changed; forget some of them.`)
      if (!c.areas.every((a) => a.name.trim())) throw new QuillError('command-refused', 'An area is kept by a name. Nothing was changed.')
      draft.areas = structuredClone(c.areas).map((a) => ({ ...a, name: a.name.trim().slice(0, 120) }))
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
    case 'order-steps': {
      const { layer } = locate(draft.layers, c.layer)
      const chosen = new Set(c.steps)
      const by = new Map(c.steps.map((id) => [id, locateStep(layer, id).step]))
      const next = [...c.steps]
      layer.chain = layer.chain.map((s) => plainOf(chosen.has(s.id) ? by.get(next.shift()!)! : s))
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
    case 'set-input': {
      const { step } = locateStep(locate(draft.layers, c.layer).layer, c.step)
      if (!stepAt(step.step, step.version).inputs?.[c.input])
        throw new QuillError('unknown-param', `The step “${step.step}” reads no picture called “${c.input}”. It is left as it was.`)
      if (c.value?.type === 'layer') locate(draft.layers, c.value.layer)
      if (c.value) step.inputs[c.input] = { ...c.value }
      else delete step.inputs[c.input]
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
        throw new QuillError('command-refused', 'A mask has one channel, paint and combed flow have four. The stroke is left out.')
      setPlane(draft, c.at, c.plane)
      return
    }
    case 'apply-recipe': {
      draft.colourways.push(...structuredClone(c.colourways ?? []))
      if (c.replace) {
        draft.layers = structuredClone(c.layers)
        draft.recipes = [structuredClone(c.use)]
      } else {
        const layers = structuredClone(c.layers)
        const group = c.group
          ? { ...newLayer(c.use.title, { type: 'group', isolated: true, layers }, [], c.group), mask: structuredClone(c.mask ?? null) }
          : null
        draft.layers.push(...(group ? [group] : layers))
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
  checkLocks(artwork, command)
  const title = titleOf(artwork, command)
  const [next, patches, inverse] = produceWithPatches(artwork, (draft) => change(draft as Artwork, command))
  if (GROWING.has(command.type)) checkBounds(next as unknown as Record<string, unknown>)
  const cycle = findLiveCycle(next.layers)
  if (cycle) throw new QuillError('live-cycle', `This would make layers out of each other in a circle: ${cycle.join(' → ')}.`, { layers: cycle })
  return { artwork: next, edit: { title, patches, inverse } }
}

/** Applies patches of an edit, one way or the other. */
export function applyEdit(artwork: Artwork, patches: Patch[]): Artwork {
  return applyPatches(artwork, patches)
}
