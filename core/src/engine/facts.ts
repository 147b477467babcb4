import { atLevel } from '../base/region.ts'
import type { Analysis, Plane, PlannedStep } from '../steps/contract.ts'
import type { Pic } from '../steps/contract.ts'
import type { Kernels } from '../kernels/kernels.ts'
import type { Node } from './graph.ts'
import { analysisLevel, paramsAt, STUDY_SIDE, type StepNode } from './levels.ts'
import type { Request } from './request.ts'

/** What remembered facts, plans and studies may take. */
const BYTES = 128 * 2 ** 20
/** Of how many things under which is painted the last finding is remembered. */
const LAST = 100

/** Computes the whole of a node at a level and shows it. */
export type ReadWhole = <T>(node: Node, level: number, request: Request, use: (pic: Pic) => T | Promise<T>) => Promise<T>

/** What steps find out about whole pictures, once: facts, plans, studies of other pictures. Bounded in bytes; the least recently used go first. */
export class Facts {
  private readonly kernels: Kernels
  private readonly readWhole: ReadWhole
  private readonly known = new Map<string, { found: unknown; bytes: number }>()
  private bytes = 0
  /** What was found last, by names without what was painted: for the picture under a brush. */
  private readonly last = new Map<string, unknown>()

  constructor(kernels: Kernels, readWhole: ReadWhole) {
    this.kernels = kernels
    this.readWhole = readWhole
  }

  /** What a step found out about its whole input; undefined where it does not look. */
  async of(node: StepNode, request: Request): Promise<unknown> {
    const { analyse } = node.def
    if (!analyse) return undefined
    return this.once(node, 'facts', node.input, analysisLevel(node.input.extent), request, (work) =>
      analyse(work, paramsAt(node.def, node.params, work.level) as never),
    )
  }

  /** What its controls show of a step's input; undefined where there is nothing. */
  async shown(node: StepNode, request: Request): Promise<unknown> {
    const { inspect } = node.def
    if (!inspect) return undefined
    const level = analysisLevel(node.input.extent)
    return this.once(node, 'shown', node.input, level, request, (work) => inspect(work, paramsAt(node.def, node.params, level) as never))
  }

  /** The plan of a planned step. */
  plan(node: StepNode, facts: unknown, request: Request): Promise<unknown> {
    const def = node.def as PlannedStep
    const level = Math.max(0, def.planAt(paramsAt(def, node.params, 0) as never))
    return this.once(node, 'plan', node.input, level, request, (work) =>
      def.plan({ ...work, facts, pause: request.pause }, paramsAt(def, node.params, level) as never),
    )
  }

  /** What a step makes of the other pictures it goes by. */
  async planes(node: StepNode, request: Request): Promise<Record<string, Plane>> {
    const { study } = node.def
    const planes: Record<string, Plane> = {}
    if (!study) return planes
    for (const [name, picture] of Object.entries(node.pictures))
      planes[name] = (await this.once(picture, node.def.id, picture, analysisLevel(picture.extent, STUDY_SIDE), request, study)) as Plane
    return planes
  }

  private async once(of: Node, what: string, node: Node, level: number, request: Request, make: (work: Analysis) => unknown): Promise<unknown> {
    const name = `${of.key}/${what}`
    const shape = `${of.shape}/${what}`
    if (request.frozen && of.shape !== of.key && this.last.has(shape)) return this.last.get(shape)
    const found = await this.findOnce(name, node, level, request, make)
    if (of.shape !== of.key) {
      if (this.last.size > LAST) this.last.delete(this.last.keys().next().value!)
      this.last.delete(shape)
      this.last.set(shape, found)
    }
    return found
  }

  private async findOnce(name: string, node: Node, level: number, request: Request, make: (work: Analysis) => unknown): Promise<unknown> {
    const known = this.known.get(name)
    if (known) {
      this.known.delete(name)
      this.known.set(name, known)
      return known.found
    }
    // what is found must not depend on who asked: never a quick picture
    const found = await this.readWhole(node, level, { ...request, quick: false }, (input) =>
      make({ input: { ptr: input.ptr, stride: input.stride, region: atLevel(node.extent, level) }, kernels: this.kernels, level, extent: node.extent }),
    )
    const bytes = bytesOf(found)
    this.known.set(name, { found, bytes })
    this.bytes += bytes
    for (const [oldest, { bytes: its }] of this.known) {
      if (this.bytes <= BYTES || oldest === name) break
      this.known.delete(oldest)
      this.bytes -= its
    }
    return found
  }
}

/** About how much memory a value takes. */
function bytesOf(value: unknown): number {
  if (ArrayBuffer.isView(value)) return value.byteLength
  if (typeof value !== 'object' || value === null) return 16
  let bytes = 64
  let seen = 0
  const parts = Object.values(value)
  for (const part of parts) {
    // long lists are of one kind of thing
    if (seen++ === 100) return bytes + ((parts.length - 100) * bytes) / 100
    bytes += bytesOf(part)
  }
  return bytes
}
