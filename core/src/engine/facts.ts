import { atLevel } from '../base/region.ts'
import type { Analysis, Plane, PlannedStep } from '../steps/contract.ts'
import type { Pic } from '../steps/contract.ts'
import type { Kernels } from '../kernels/kernels.ts'
import { hashOf } from '../base/hash.ts'
import { studyOf, type Study } from '../study/study.ts'
import type { Node } from './graph.ts'
import { analysisLevel, paramsAt, STUDY_SIDE, type StepNode } from './levels.ts'
import type { Request } from './request.ts'

/** What remembered facts, plans and studies may take. */
const BYTES = 128 * 2 ** 20
/** Of how many things under which is painted the last finding is remembered. */
const LAST = 100
/** How many last plans are kept, each under two names: they are large. */
const LAST_PLANS = 8

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

  /** The last plan of a step over an input, whatever its values; and with its values, whatever the input. */
  private readonly lastPlans = new Map<string, unknown>()

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

  /** The study of a node. */
  study(node: Node, request: Request): Promise<Study> {
    return this.once(node, 'study', node, analysisLevel(node.extent, STUDY_SIDE), request, (work) =>
      studyOf({ ...work, pause: request.pause }),
    ) as Promise<Study>
  }

  /** The plan of a planned step. */
  async plan(node: StepNode, facts: unknown, request: Request): Promise<unknown> {
    const def = node.def as PlannedStep
    if (def.lay) return this.laid(node, def, facts, request)
    const level = Math.max(0, def.planAt!(paramsAt(def, node.params, 0) as never))
    return this.once(node, 'plan', node.input, level, request, (work) =>
      def.plan!({ ...work, facts, pause: request.pause }, paramsAt(def, node.params, level) as never),
    )
  }

  /** A plan laid from a study: by the values that planning reads alone. */
  private async laid(node: StepNode, def: PlannedStep, facts: unknown, request: Request): Promise<unknown> {
    const { input } = node
    const read = Object.fromEntries(Object.entries(node.params).filter(([name]) => !def.drawnBy?.includes(name)))
    const line = `${def.id}@${def.version}/${input.shape}`
    const name = hashOf('plan', def.id, def.version, read, input.key)
    // the same values over what the input was before, where that is what changes
    const { x, y, w, h } = input.extent
    const kin = hashOf('kin', def.id, def.version, read, x, y, w, h)
    const old = this.lastPlans.get(line) ?? this.lastPlans.get(kin)
    // another plan of the same picture shows more of it than nothing does
    if (old !== undefined && !this.known.has(name) && (request.lends || (request.frozen && input.shape !== input.key))) return old
    const found = await this.made(name, async () => {
      const study = await this.study(input, request)
      return def.lay!({ study, kernels: this.kernels, facts, extent: input.extent, pause: request.pause }, paramsAt(def, node.params, 0) as never)
    })
    for (const key of [line, kin]) {
      this.lastPlans.delete(key)
      this.lastPlans.set(key, found)
      if (this.lastPlans.size > LAST_PLANS) this.lastPlans.delete(this.lastPlans.keys().next().value!)
    }
    return found
  }

  private remember(shape: string, found: unknown): void {
    if (this.last.size > LAST) this.last.delete(this.last.keys().next().value!)
    this.last.delete(shape)
    this.last.set(shape, found)
  }

  /** What a step makes of the other pictures it goes by. */
  async planes(node: StepNode, request: Request): Promise<Record<string, Plane>> {
    const { measure } = node.def
    const planes: Record<string, Plane> = {}
    if (!measure) return planes
    for (const [name, picture] of Object.entries(node.pictures))
      planes[name] = (await this.once(picture, node.def.id, picture, analysisLevel(picture.extent, STUDY_SIDE), request, measure)) as Plane
    return planes
  }

  private async once(of: Node, what: string, node: Node, level: number, request: Request, make: (work: Analysis) => unknown): Promise<unknown> {
    const name = `${of.key}/${what}`
    const shape = `${of.shape}/${what}`
    if (request.frozen && of.shape !== of.key && this.last.has(shape)) return this.last.get(shape)
    const found = await this.findOnce(name, node, level, request, make)
    if (of.shape !== of.key) this.remember(shape, found)
    return found
  }

  private findOnce(name: string, node: Node, level: number, request: Request, make: (work: Analysis) => unknown): Promise<unknown> {
    // what is found must not depend on who asked: never a quick picture
    return this.made(name, () =>
      this.readWhole(node, level, { ...request, quick: false }, (input) =>
        make({ input: { ptr: input.ptr, stride: input.stride, region: atLevel(node.extent, level) }, kernels: this.kernels, level, extent: node.extent }),
      ),
    )
  }

  private async made(name: string, make: () => unknown): Promise<unknown> {
    const known = this.known.get(name)
    if (known) {
      this.known.delete(name)
      this.known.set(name, known)
      return known.found
    }
    const found = await make()
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
