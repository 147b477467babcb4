import type { Artwork } from '../artwork/schema.ts'
import { hashOf } from '../base/hash.ts'
import { intersect, isEmpty, type Region } from '../base/region.ts'
import { extentOf, inverse, isAffine, kindOf, type Matrix } from '../base/transform.ts'
import type { Span } from '../blend/span.ts'
import type { AnyStep } from '../steps/contract.ts'
import { COARSEST, coarsestSpan } from './coarsest.ts'
import { maskInputs, type MaskNode, type Node } from './nodes.ts'

const EMPTY: Region = { x: 0, y: 0, w: 0, h: 0 }
/** Beyond this nothing has pixels. */
export const FARTHEST: Region = { x: -(2 ** 22), y: -(2 ** 22), w: 2 ** 23, h: 2 ** 23 }

/** Makes nodes, whatever artwork they are of. Nodes already known by their key are used again. */
export class NodeMaker {
  /** Hash of the kernel module: other kernels, other keys. */
  readonly salt: string
  private readonly nodes = new Map<string, Node>()

  constructor(salt: string) {
    this.salt = salt
  }

  /** A node that is known by its key, or this one. */
  intern(node: Node): Node {
    const known = this.nodes.get(node.key)
    if (known) return known
    this.nodes.set(node.key, node)
    return node
  }

  /** Names a node by what it does and what it is made of. */
  named(inputs: readonly Node[], ...does: unknown[]): { key: string; shape: string } {
    const key = hashOf(...does, ...inputs.map((n) => n.key))
    return { key, shape: inputs.every((n) => n.shape === n.key) ? key : hashOf('shape', ...does, ...inputs.map((n) => n.shape)) }
  }

  /** A node that is made of no others: its shape is its key. */
  plain(
    node:
      | Omit<Extract<Node, { kind: 'ink' }>, 'shape'>
      | Omit<Extract<Node, { kind: 'photo' }>, 'shape'>
      | Omit<Extract<Node, { kind: 'fill' }>, 'shape'>
      | Omit<Extract<Node, { kind: 'empty' }>, 'shape'>,
  ): Node {
    return this.intern({ ...node, shape: node.key } as Node)
  }

  /** Nothing anywhere. */
  empty(): Node {
    return this.plain({ kind: 'empty', key: 'empty', extent: EMPTY })
  }

  /** One pixel over a rectangle. */
  fill(pixel: bigint, extent: Region): Node {
    const { x, y, w, h } = extent
    return this.plain({ kind: 'fill', key: hashOf('fill', String(pixel), x, y, w, h), extent: { x, y, w, h }, pixel })
  }

  /** A photo from (0, 0) on; stretched where it is shown at another size. */
  photo(source: { asset: string; width: number; height: number; shown?: { w: number; h: number } | undefined }): Node {
    const { width, height, shown } = source
    const own = this.plain({
      kind: 'photo',
      key: hashOf(this.salt, 'photo', source.asset),
      extent: { x: 0, y: 0, w: width, h: height },
      asset: source.asset,
    })
    return shown ? this.place(own, [shown.w / width, 0, 0, 0, shown.h / height, 0, 0, 0, 1], 'solid') : own
  }

  /** A picture laid elsewhere. What would reach further than pixels can be counted is cut there. */
  place(input: Node, matrix: Matrix, edge: 'soft' | 'solid' = 'soft'): Node {
    if (input.kind === 'empty' || kindOf(matrix) === 'still') return input
    const by = isAffine(matrix) ? (matrix.map((v) => v / matrix[8]) as unknown as Matrix) : matrix
    const found = extentOf(by, input.extent)
    const extent = found && intersect(found, FARTHEST)
    const back = inverse(by)
    if (!back || !extent || isEmpty(extent)) return this.empty()
    return this.intern({ ...this.named([input], 'place', by, edge), kind: 'place', extent, input, matrix: by, back, edge })
  }

  /** What of a picture lies within a rectangle. */
  cropped(input: Node, extent: Region): Node {
    return this.composite(this.fill(0n, extent), input, extent, {})
  }

  /** A step that is not in a chain. */
  apply(input: Node, def: AnyStep, params: Record<string, unknown>): Node {
    return this.intern({
      ...this.named([input], 'step', this.salt, def.id, def.version, params, false),
      kind: 'step',
      extent: input.extent,
      def,
      params,
      input,
      others: {},
      pictures: {},
      joins: false,
      hands: null,
    })
  }

  /** One picture over another, whatever their tones. */
  composite(
    below: Node,
    above: Node,
    extent: Region,
    { mode = 0, opacity = 1, atop = false, mask = null }: { mode?: number; opacity?: number; atop?: boolean; mask?: MaskNode | null },
  ): Node {
    return this.intern({
      ...this.named([below, above, ...maskInputs(mask)], 'over', mode, opacity, null, null, atop, mask && [mask.turned, mask.strength]),
      kind: 'over',
      extent,
      mode,
      opacity,
      span: null,
      own: null,
      mask,
      below,
      above,
      atop,
      coarsest: COARSEST,
    })
  }

  /** One picture where another covers. */
  atop(below: Node, above: Node): Node {
    if (below.kind === 'empty') return below
    return this.composite(below, above, below.extent, { atop: true })
  }

  /** A picture instead of the one it was made of, mixed with that. */
  replace(input: Node, result: Node, mode: number, opacity: number, span: Span | null, mask: MaskNode | null, own: Span | null = null): Node {
    if (input === result || input.kind === 'empty' || opacity === 0) return input
    if (mode === 0 && opacity === 1 && !span && !own && !mask) return result
    return this.intern({
      ...this.named([input, result, ...maskInputs(mask)], 'replace', mode, opacity, span, own, mask && [mask.turned, mask.strength]),
      kind: 'replace',
      extent: result.extent,
      mode,
      opacity,
      span,
      own,
      mask,
      input,
      result,
      coarsest: Math.min(coarsestSpan(span), coarsestSpan(own)),
    })
  }

  /** A picture lit by a lamp, where it has heights. */
  litBy(input: Node, heights: Node | null, lamp: Artwork['lamp']): Node {
    if (!heights || input.kind === 'empty') return input
    return this.intern({ ...this.named([input, heights], 'lit', this.salt, lamp), kind: 'lit', extent: input.extent, input, heights, lamp })
  }
}

/** A colour written as #rrggbb and how far it covers, as an RGBA16 pixel. */
export function pixelOfHex(colour: string, cover: number): bigint {
  const v = [1, 3, 5].map((i) => BigInt(Number.parseInt(colour.slice(i, i + 2), 16) * 257))
  const alpha = BigInt(Math.floor(cover * 65535 + 0.5))
  return BigInt.asIntN(64, v[0]! | (v[1]! << 16n) | (v[2]! << 32n) | (alpha << 48n))
}
