// Areas by likeness: all that is no more unlike a colour or tone than a bound, everywhere or as far as it hangs together.

// taken once: loops over pixels look nothing up
const { max } = Math

/** What a picture looks like from one of its places. */
export interface Likeness {
  w: number
  h: number
  /** How unlike each pixel is, in parts of its unit (128 of ΔE, 257 of a tone of 8 bits …). */
  unlike: Uint16Array
  /** How much the picture changes at each pixel; null where edges do not matter. */
  change: Uint8Array | null
}

export interface Reach {
  /** How unlike pixels may be, in the same parts. */
  within: number
  /** Over how much more the area runs out. */
  soft: number
  /** Where it begins to spread, pixel; null: everywhere at once. */
  from: { x: number; y: number } | null
  /** Changes above this are edges that it does not go over. */
  edge: number
}

const IN = 1
/** Pixels that an edge is broad where its change is measured over two: so many rounds join it to what it bounds. */
const EDGE_ROUNDS = 2

/**
 * What of a picture is like enough: 65535 inside, 0 outside, between where it runs out. Spreading goes to the four neighbours (a line of pixels that touch by their
 * corners alone holds it back), row by row (Smith, "Tint fill", SIGGRAPH 1979); the pixels of an edge itself then join what they lie beside, where they are like enough.
 * @returns a code of 16 bits a pixel, row by row
 */
export function alike({ w, h, unlike, change }: Likeness, { within, soft, from, edge }: Reach): Uint16Array {
  const out = new Uint16Array(w * h)
  if (!from) {
    for (let i = 0; i < out.length; i++) out[i] = coverOf(unlike[i]!, within, soft)
    return out
  }
  const inside = spread(w, h, from, unlike, within, change, edge)
  if (change) for (let round = 0; round < EDGE_ROUNDS; round++) joinEdges(w, h, inside, unlike, within, change, edge)
  for (let i = 0; i < out.length; i++) if (inside[i] === IN) out[i] = 65535
  // the rim: what is beside it is taken as far as it is like
  rim(w, h, inside, (i) => (out[i] = coverOf(unlike[i]!, within, soft)))
  return out
}

/** Pixels of an edge that lie beside what is in are in. */
function joinEdges(w: number, h: number, inside: Uint8Array, unlike: Uint16Array, within: number, change: Uint8Array, edge: number): void {
  const found: number[] = []
  rim(w, h, inside, (i) => unlike[i]! <= within && change[i]! > edge && found.push(i))
  for (const i of found) inside[i] = IN
}

/** Tells of every pixel that is out and has one of its four neighbours in; some are told of more than once. */
function rim(w: number, h: number, inside: Uint8Array, tell: (i: number) => void): void {
  for (let y = 0, i = 0; y < h; y++)
    for (let x = 0; x < w; x++, i++) {
      // looked at from what is in, which is less, and only where it ends
      if (inside[i] !== IN) continue
      if (x > 0 && inside[i - 1] !== IN) tell(i - 1)
      if (x + 1 < w && inside[i + 1] !== IN) tell(i + 1)
      if (y > 0 && inside[i - w] !== IN) tell(i - w)
      if (y + 1 < h && inside[i + w] !== IN) tell(i + w)
    }
}

const coverOf = (unlike: number, within: number, soft: number): number =>
  unlike <= within ? 65535 : soft > 0 ? max(0, Math.round(65535 * (1 - (unlike - within) / soft))) : 0

/** Fills spans of a row, and looks for others above and below each. */
function spread(
  w: number,
  h: number,
  from: { x: number; y: number },
  unlike: Uint16Array,
  within: number,
  change: Uint8Array | null,
  edge: number,
): Uint8Array {
  const inside = new Uint8Array(w * h)
  const first = from.y * w + from.x
  const open = (i: number) => inside[i] === 0 && unlike[i]! <= within && (change === null || change[i]! <= edge)
  // where it was begun is in, whatever lies there
  inside[first] = IN
  let stack = new Int32Array(1024)
  let n = 0
  const push = (i: number) => {
    if (n === stack.length) {
      const more = new Int32Array(n * 2)
      more.set(stack)
      stack = more
    }
    stack[n++] = i
  }
  const rows = (left: number, right: number, y: number) => {
    for (const row of [y - 1, y + 1]) {
      if (row < 0 || row >= h) continue
      let going = false
      for (let i = row * w + left; i <= row * w + right; i++) {
        const here = open(i)
        if (here && !going) push(i)
        going = here
      }
    }
  }
  const grown = (seed: number) => {
    const y = Math.floor(seed / w)
    const [start, end] = [y * w, y * w + w - 1]
    let left = seed
    let right = seed
    while (left > start && open(left - 1)) inside[--left] = IN
    while (right < end && open(right + 1)) inside[++right] = IN
    rows(left - start, right - start, y)
  }
  grown(first)
  while (n > 0) {
    const seed = stack[--n]!
    if (!open(seed)) continue
    inside[seed] = IN
    grown(seed)
  }
  return inside
}
