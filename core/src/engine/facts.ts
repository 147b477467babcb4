import { atLevel, type Region } from '../base/region.ts'
import type { Analysis, Plane, PlannedStep } from '../steps/contract.ts'
import type { Pic } from '../steps/contract.ts'
import type { Kernels } from '../kernels/kernels.ts'
import { hashOf } from '../base/hash.ts'
import { carriedOn, studyOf, type Study } from '../study/study.ts'
import { field, type Field } from '../study/fields.ts'
import { paintedStudy, turnedWay, type StudyPaint } from '../study/painted.ts'
import type { Node, StudyHands } from './nodes.ts'
import { analysisLevel, paramsAt, STUDY_SIDE, type StepNode } from './levels.ts'
import type { Request } from './request.ts'
import type { Undertakings } from './undertakings.ts'

/** What remembered facts, plans and studies may take. */
const BYTES = 128 * 2 ** 20
/** Of how many things under which is painted the last finding is remembered. */
const LAST = 100
/** How many last plans are kept, each under two names: they are large. */
const LAST_PLANS = 8

/** Computes the whole of a node, or a region, at a level and shows it. */
export type ReadWhole = <T>(node: Node, level: number, request: Request, use: (pic: Pic) => T | Promise<T>, region?: Region) => Promise<T>

/** What steps find out about whole pictures, once: facts, plans, studies of other pictures. Bounded in bytes; the least recently used go first. */
export class Facts {
  private readonly kernels: Kernels
  private readonly readWhole: ReadWhole
  private readonly undertakings: Undertakings
  private readonly known = new Map<string, { found: unknown; bytes: number }>()
  private bytes = 0
  /** What was found last, by names without what was painted: for the picture under a brush. */
  private readonly last = new Map<string, unknown>()

  /** The last plan of a step over an input, whatever its values; and with its values, whatever the input. */
  private readonly lastPlans = new Map<string, unknown>()

  constructor(kernels: Kernels, readWhole: ReadWhole, undertakings: Undertakings) {
    this.undertakings = undertakings
    this.kernels = kernels
    this.readWhole = readWhole
  }

  /** What a step found out about its whole input; undefined where it does not look. */
  async of(node: StepNode, request: Request): Promise<unknown> {
    const { analyse } = node.def
    if (!analyse) return undefined
    return this.once(foundBy(node), 'facts', node.input, analysisLevel(node.input.extent), request, (work) =>
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
  async study(node: Node, request: Request): Promise<Study> {
    const name = `${node.key}/study`
    const known = this.recall(name) ?? this.lent(node, 'study', request)
    if (known) return known.found as Study
    return this.undertakings.join(
      name,
      request,
      (own) =>
        this.once(node, 'study', node, analysisLevel(node.extent, STUDY_SIDE), own, (work) =>
          studyOf({ ...work, pause: own.pause, progress: (share) => own.tell?.('Studying the photo', share) }),
        ) as Promise<Study>,
    )
  }

  /** The study that a step goes by: of its input, as hands have changed it. */
  private async studyFor({ input, hands }: StepNode, request: Request): Promise<Study> {
    const found = await this.study(input, request)
    if (!hands) return found
    return this.made(studiedName(input, hands), async () => {
      const level = analysisLevel(input.extent, STUDY_SIDE)
      const region = atLevel(input.extent, level)
      const paint: StudyPaint = { values: {}, comb: null, spots: hands.spots }
      for (const { part, node } of hands.planes) {
        await request.pause()
        await this.readWhole(
          node,
          level,
          { ...request, quick: false },
          (pic) => {
            if (part === 'flow') paint.comb = combIn(this.kernels, pic, hands.turn)
            else paint.values[part] = valuesIn(this.kernels, pic)
          },
          region,
        )
      }
      return paintedStudy(found, paint)
    }) as Promise<Study>
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
    const laying = { params: def.params }
    const drawn = typeof def.drawnBy === 'function' ? def.drawnBy(paramsAt(def, node.params, 0) as never) : def.drawnBy
    const read = Object.fromEntries(Object.entries(node.params).filter(([name]) => name in def.params && !drawn?.includes(name)))
    const line = `${def.id}@${def.version}/${input.shape}`
    const name = hashOf('plan', def.id, def.version, read, node.hands ? studiedName(input, node.hands) : input.key)
    // the same values over what the input was before, where that is what changes
    const { x, y, w, h } = input.extent
    const kin = hashOf('kin', def.id, def.version, read, x, y, w, h)
    const old = this.lastPlans.get(line) ?? this.lastPlans.get(kin)
    // another plan of the same picture shows more of it than nothing does
    if (old !== undefined && !this.known.has(name) && (request.lends || (request.frozen && input.shape !== input.key))) return old
    const found =
      this.recall(name)?.found ??
      (await this.undertakings.join(name, request, (own) =>
        this.made(name, async () => {
          const found = await this.studyFor(node, own)
          const study = def.beyond ? carriedOn(found) : found
          const progress = (share: number) => own.tell?.(`Laying ${def.title}`, share)
          return def.lay!({ study, kernels: this.kernels, facts, extent: input.extent, pause: own.pause, progress }, paramsAt(laying, node.params, 0) as never)
        }),
      ))
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

  private async once(
    of: Pick<Node, 'key' | 'shape'>,
    what: string,
    node: Node,
    level: number,
    request: Request,
    make: (work: Analysis) => unknown,
  ): Promise<unknown> {
    const lent = this.lent(of, what, request)
    if (lent) return lent.found
    const found = await this.findOnce(`${of.key}/${what}`, node, level, request, make)
    if (of.shape !== of.key) this.remember(`${of.shape}/${what}`, found)
    return found
  }

  /** What was found last of something that is being painted under. */
  private lent({ key, shape }: Pick<Node, 'key' | 'shape'>, what: string, { frozen }: Request): { found: unknown } | undefined {
    const name = `${shape}/${what}`
    return frozen && shape !== key && this.last.has(name) ? { found: this.last.get(name) } : undefined
  }

  private findOnce(name: string, node: Node, level: number, request: Request, make: (work: Analysis) => unknown): Promise<unknown> {
    // what is found must not depend on who asked: never a quick picture
    return this.made(name, () =>
      this.readWhole(node, level, { ...request, quick: false }, (input) =>
        make({
          input: { ptr: input.ptr, stride: input.stride, region: atLevel(node.extent, level) },
          kernels: this.kernels,
          level,
          extent: node.extent,
          pause: request.pause,
        }),
      ),
    )
  }

  /** What was found already, which is then the last to go. */
  private recall(name: string): { found: unknown } | undefined {
    const known = this.known.get(name)
    if (known) {
      this.known.delete(name)
      this.known.set(name, known)
    }
    return known
  }

  private async made(name: string, make: () => unknown): Promise<unknown> {
    const known = this.recall(name)
    if (known) return known.found
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

/** Functions that find facts which go by no values, by the order in which they were met. */
const finders = new Map<unknown, number>()

/** What names the facts of a step: its input, and the values that they go by alone. */
function foundBy({ def, params, input, key, shape }: StepNode): Pick<Node, 'key' | 'shape'> {
  if (!def.analysedBy) return { key, shape }
  const values = def.analysedBy.map((name) => params[name])
  if (values.length === 0 && !finders.has(def.analyse)) finders.set(def.analyse, finders.size)
  const by = values.length === 0 ? ['all', finders.get(def.analyse)] : [def.id, def.version, values]
  const named = (of: string) => hashOf('found', by, of)
  return { key: named(input.key), shape: named(input.shape) }
}

/** Names a study that hands have changed. */
const studiedName = (input: Node, { planes, turn, spots }: StudyHands): string =>
  hashOf(
    'studied',
    input.key,
    planes.map(({ part, node }) => [part, node.key]),
    turn,
    spots,
  )

/** What was painted over a part, −1 … 1: a grey picture, neutral in the middle and where there is nothing. */
function valuesIn(kernels: Kernels, { ptr, stride, region: { w, h } }: Pic): Field {
  const out = field(w, h)
  for (let y = 0; y < h; y++) {
    const row = kernels.u16(ptr + y * stride, w * 4)
    for (let x = 0; x < w; x++) out.v[y * w + x] = row[x * 4 + 3]! === 0 ? 0 : Math.min(1, (row[x * 4]! - 32768) / 32767)
  }
  return out
}

/** The ways that were combed: red and green are cosine and sine of twice the angle, a half for 0. */
function combIn(kernels: Kernels, { ptr, stride, region: { w, h } }: Pic, turn: StudyHands['turn']): { x: Field; y: Field; cover: Field } {
  const [ways, ups, cover] = [field(w, h), field(w, h), field(w, h)]
  for (let y = 0; y < h; y++) {
    const row = kernels.u16(ptr + y * stride, w * 4)
    for (let x = 0; x < w; x++) {
      const share = row[x * 4 + 3]! / 65535
      if (share === 0) continue
      let way = { x: row[x * 4]! / 32767.5 - 1, y: row[x * 4 + 1]! / 32767.5 - 1 }
      if (turn) way = turnedWay(turn, way.x, way.y)
      const i = y * w + x
      ways.v[i] = way.x * share
      ups.v[i] = way.y * share
      cover.v[i] = share
    }
  }
  return { x: ways, y: ups, cover }
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
