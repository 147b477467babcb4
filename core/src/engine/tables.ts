import { spanTable, type Span } from '../blend/span.ts'
import type { Kernels } from '../kernels/kernels.ts'
import type { Pic, TableStep } from '../steps/contract.ts'
import { coarsestOf } from '../steps/steepness.ts'
import { tableIn, tablesIn } from '../steps/table-cache.ts'
import type { Node } from './nodes.ts'
import { COARSEST, paramsAt, type StepNode } from './levels.ts'

// taken once: loops over planes look nothing up
const { floor, min } = Math

/** Composed tables that are remembered outside of kernel memory: 128 KB each, or three times that. */
const COMPOSED = 256

/**
 * A run of table steps is one table: results round to 16 bits between them anyway, so composing changes nothing.
 */
export class Tables {
  private readonly kernels: Kernels
  private readonly coarsest = new Map<string, number>()
  private readonly composed = new Map<string, readonly [Uint16Array, Uint16Array, Uint16Array]>()
  private readonly lumas = new WeakMap<StepNode, Uint16Array | null>()

  constructor(kernels: Kernels) {
    this.kernels = kernels
  }

  /** The steps that become one table with a table step, itself first, and what they read. */
  runOf(node: StepNode): { steps: StepNode[]; below: Node } {
    const steps = [node]
    let at = node
    while (at.joins && at.input.kind === 'step' && !this.lumaOf(at.input)) steps.push((at = at.input))
    return { steps, below: at.input }
  }

  /** The table for lightness alone that a table step has at its parameters. */
  private lumaOf(node: StepNode): Uint16Array | null {
    const { def } = node
    if (def.kind !== 'table' || !def.luma) return null
    let luma = this.lumas.get(node)
    if (luma === undefined) this.lumas.set(node, (luma = def.luma(paramsAt(def, node.params, 0) as never)))
    return luma
  }

  /** One table a channel for a run; the same array where channels are alike. `facts` are those of the run's steps. */
  private tablesOf(steps: readonly StepNode[], facts: ReadonlyMap<StepNode, unknown>): readonly [Uint16Array, Uint16Array, Uint16Array] {
    const name = steps[0]!.key
    const known = this.composed.get(name)
    if (known) return known
    const [node, ...rest] = steps
    const own = (node!.def as TableStep).table(paramsAt(node!.def, node!.params, 0) as never, this.kernels, facts.get(node!))
    const mine = own instanceof Uint16Array ? ([own, own, own] as const) : own
    let all = mine as readonly [Uint16Array, Uint16Array, Uint16Array]
    if (rest.length) {
      const before = this.tablesOf(rest, facts)
      const through = (i: 0 | 1 | 2) => {
        const out = new Uint16Array(65536)
        for (let v = 0; v < 65536; v++) out[v] = mine[i][before[i][v]!]!
        return out
      }
      const first = through(0)
      const one = mine[0] === mine[1] && mine[0] === mine[2] && before[0] === before[1] && before[0] === before[2]
      all = one ? [first, first, first] : [first, through(1), through(2)]
    }
    if (this.composed.size >= COMPOSED) this.composed.delete(this.composed.keys().next().value!)
    this.composed.set(name, all)
    return all
  }

  /** The coarsest level at which a run may be applied: by how sharply its tables bend. */
  coarsestOf(steps: readonly StepNode[], facts: ReadonlyMap<StepNode, unknown>): number {
    const name = steps[0]!.key
    let coarsest = this.coarsest.get(name)
    if (coarsest === undefined) {
      const all = new Set(this.tablesOf(steps, facts))
      const luma = this.lumaOf(steps[0]!)
      const own = steps.map((n) => n.def.coarsest?.(paramsAt(n.def, n.params, 0) as never) ?? COARSEST)
      coarsest = min(...own, ...[...all, ...(luma ? [luma] : [])].map(coarsestOf))
      if (this.coarsest.size > 2000) this.coarsest.clear()
      this.coarsest.set(name, coarsest)
    }
    return coarsest
  }

  /** Sends a picture through a run of tables. */
  apply(steps: readonly StepNode[], facts: ReadonlyMap<StepNode, unknown>, input: Pic, out: Pic): void {
    const { kernels } = this
    const name = `run ${steps[0]!.key}`
    const luma = this.lumaOf(steps[0]!)
    const [r, g, b] = tablesIn(kernels, name, () => this.tablesOf(steps, facts))
    const straight = r === g && isStraight(kernels.u16(r, 65536))
    const { w, h } = out.region
    if (!straight || !luma) kernels.raw.lut(input.ptr, input.stride, out.ptr, out.stride, w, h, r, g, b)
    const from = straight && luma ? input : out
    if (luma) {
      const table = tableIn(kernels, `${name} luma`, () => luma)
      kernels.raw.lumaCurve(from.ptr, from.stride, out.ptr, out.stride, w, h, table)
    }
  }

  /** A mask of 16 bits a pixel from the grey picture that a hand painted. */
  handMask({ turned, strength }: { turned: boolean; strength: number }, input: Pic, mask: number): void {
    const table = tableIn(this.kernels, `hand ${turned} ${strength}`, () =>
      Uint16Array.from({ length: 65536 }, (_, v) => floor(65535 - strength * (turned ? v : 65535 - v) + 0.5)),
    )
    this.kernels.raw.lumaMask(input.ptr, input.stride, mask, input.region.w * 2, input.region.w, input.region.h, table)
  }

  /** A mask of 16 bits a pixel from the lightness of a picture: how far a tonal span takes it in. */
  spanMask(span: Span, input: Pic, mask: number): void {
    const table = tableIn(this.kernels, `span ${JSON.stringify(span)}`, () => spanTable(span))
    this.kernels.raw.lumaMask(input.ptr, input.stride, mask, input.region.w * 2, input.region.w, input.region.h, table)
  }
}

/** Whether a table changes nothing. */
function isStraight(table: Uint16Array): boolean {
  for (let i = 0; i < 65536; i += 257) if (table[i] !== i) return false
  return table.every((v, i) => v === i)
}
