import { locate } from '../artwork/layers.ts'
import type { Marks } from '../paths/marks.ts'
import { paintExtent, spaceOf, toSheet } from '../artwork/spaces.ts'
import type { Artwork, Layer } from '../artwork/schema.ts'
import { QuillError } from '../base/errors.ts'
import { isAffine, kindOf, mapped, type Matrix } from '../base/transform.ts'
import type { LineFile, LineGroup } from '../formats/svg.ts'
import type { PlannedStep } from '../steps/contract.ts'
import { stepAt } from '../steps/registry.ts'
import type { Engine } from './engine.ts'
import { GraphCompiler } from './graph.ts'
import type { Node } from './nodes.ts'
import { paramsAt, type StepNode } from './levels.ts'
import type { Signal } from './request.ts'

/** The step of a layer whose lines are its last ones; null where none draws lines. */
function drawing({ chain }: Layer): { index: number; def: PlannedStep } | null {
  for (let index = chain.length - 1; index >= 0; index--) {
    const use = chain[index]!
    const def = stepAt(use.step, use.version)
    if (use.on && def.kind === 'planned' && (def.lines || def.shapes)) return { index, def }
  }
  return null
}

/** Whether a layer is made of pen strokes. */
const inked = ({ source }: Layer): boolean => source.type === 'ink' && source.blob !== null

/** Layers that are seen and draw lines, from the lowest to the highest, with the groups they are in. */
function* drawn(list: readonly Layer[], within: string): Generator<{ layer: Layer; name: string }> {
  for (const layer of list) {
    if (!layer.visible || layer.opacity === 0) continue
    const name = within ? `${within} / ${layer.name}` : layer.name
    if (layer.source.type === 'group') yield* drawn(layer.source.layers, name)
    if (drawing(layer) || inked(layer)) yield { layer, name }
  }
}

/** Whether a file of lines can be made of an artwork. */
export const hasLines = ({ layers }: Pick<Artwork, 'layers'>): boolean => !drawn(layers, '').next().done

/** How much larger a map makes things at a place: the root of what areas grow by. */
function growth(m: Matrix, x: number, y: number): number {
  if (isAffine(m)) return Math.sqrt(Math.abs(m[0] * m[4] - m[1] * m[3])) / Math.abs(m[8])
  const [o, right, down] = [mapped(m, { x, y }), mapped(m, { x: x + 0.5, y }), mapped(m, { x, y: y + 0.5 })]
  if (!o || !right || !down) return 1
  return Math.sqrt(Math.abs((right.x - o.x) * (down.y - o.y) - (right.y - o.y) * (down.x - o.x))) * 2
}

/** Where places of marks lie on the sheet, by the way there. */
function placing(way: Matrix): LineGroup['place'] {
  if (kindOf(way) === 'still') return (x, y) => ({ x, y, scale: 1 })
  return (x, y) => {
    const at = mapped(way, { x, y })
    return at && { ...at, scale: growth(way, x, y) }
  }
}

/** The step itself, under what mixes its result with its input and lays it elsewhere. */
function stepOf(node: Node): StepNode | null {
  let n = node
  while (n.kind === 'replace' || n.kind === 'lit' || n.kind === 'place') n = n.kind === 'replace' ? n.result : n.input
  return n.kind === 'step' ? n : null
}

/**
 * The lines that one step of a layer draws, in the pixels of what it draws on, and whether that is where the layer is laid instead of its own space.
 * @throws QuillError `no-lines` where it draws none, and what planning throws
 */
export async function stepLines(
  engine: Engine,
  artwork: Artwork,
  layerId: string,
  stepId: string,
  signal: Signal,
): Promise<{ marks: Marks; colour: string; laid: boolean }> {
  const { layer } = locate(artwork.layers, layerId)
  const index = layer.chain.findIndex((s) => s.id === stepId)
  const step = stepOf(new GraphCompiler(artwork, engine.kernels.hash).compile({ type: 'chain', layer: layerId, steps: index + 1 }))
  if (!step || step.def.kind !== 'planned' || !step.def.lines || step.def.id !== layer.chain[index]?.step)
    throw new QuillError('no-lines', 'This step draws no lines that could be taken over, or it is off. The artwork is as it was.')
  const { marks, colour } = step.def.lines(await engine.plan(step, signal), paramsAt(step.def, step.params, 0) as never)
  return { marks, colour, laid: laidBefore(layer, index) }
}

/** Whether a step runs where its layer is laid, instead of in the layer's own space. */
const laidBefore = ({ placement, chain }: Layer, index: number): boolean =>
  kindOf(placement.matrix as Matrix) !== 'still' && chain.slice(0, index + 1).some((s) => s.on && stepAt(s.step, s.version).onPaper)

/**
 * The lines of an artwork, as a file of lines holds them. Masks, opacity and blend modes are no part of lines: whoever draws them decides those.
 * @param onProgress told after each layer's lines, 0…1
 * @throws QuillError `no-lines` where no step that is seen draws lines, `cancelled`, and what planning throws
 */
export async function drawnLines(
  engine: Engine,
  artwork: Artwork,
  as: LineFile['as'],
  { signal = { cancelled: false }, onProgress = () => undefined }: { signal?: Signal; onProgress?: (share: number) => void } = {},
): Promise<LineFile> {
  const layers = [...drawn(artwork.layers, '')]
  if (layers.length === 0)
    throw new QuillError(
      'no-lines',
      'Nothing in this artwork is made of lines, so there is no file of lines to write. Add a step that draws (Contours, Ink lines or Hatching), or draw in ink. The artwork is as it was.',
    )
  const compiler = new GraphCompiler(artwork, engine.kernels.hash)
  const groups: LineGroup[] = []
  for (const { layer, name } of layers) {
    const { source } = layer
    if (source.type === 'ink' && !drawing(layer)) {
      const extent = paintExtent(artwork, layer)
      const marks = await engine.inks.marksOf(source.blob!, extent, source.scale ?? 1)
      groups.push({ layer: name, title: 'Ink', colour: source.colour, marks, extent, laid: (weight) => weight, place: placing(toSheet(artwork, layer)) })
      onProgress(groups.length / layers.length)
      continue
    }
    const { index, def } = drawing(layer)!
    const step = stepOf(compiler.compile({ type: 'chain', layer: layer.id, steps: index + 1 }))
    if (!step || step.def !== def) continue
    const plan = await engine.plan(step, signal)
    const params = paramsAt(def, step.params, 0) as never
    const way = laidBefore(layer, index) ? spaceOf(artwork.layers, layer.id) : toSheet(artwork, layer)
    const { extent } = step.input
    const all = def.lines
      ? [{ ...def.lines(plan, params), title: def.title }]
      : def.shapes!(plan, params, extent).map((s) => ({ ...s, title: `${def.title}, ${s.title}`, laid: (weight: number) => weight }))
    for (const { marks, colour, title, laid } of all) groups.push({ layer: name, title, colour, marks, extent, laid, place: placing(way) })
    onProgress(groups.length / layers.length)
  }
  return { title: artwork.title, sheet: artwork.sheet, groups, as }
}
