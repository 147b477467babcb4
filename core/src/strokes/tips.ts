// The brush tips: what of a tip's face touches the paper, as heights made here by whole-number noise.

/** Side of a tip's heights; the kernel `dab` knows it. */
export const TIP_SIDE = 64
/** Side of the paper's heights, which repeat. */
export const TOOTH_SIDE = 256

export const tipIds = ['soft', 'firm', 'chisel', 'dry-bristle', 'wet-edge', 'sponge', 'chalk', 'spatter'] as const
export type TipId = (typeof tipIds)[number]

export interface Tip {
  title: string
  help: string
  /** Length over breadth of its face. */
  aspect: number
  /** Dabs a breadth. */
  dabs: number
  /** How much of the brush's edge it takes: chalk and sponge have none of their own. */
  softness: number
  /** 0 … 1: how far the colour stands at the rim of a stroke. */
  wet: number
  /** Its face turns from dab to dab. */
  rolls: boolean
  /** How far dabs stray from the line by themselves, breadths. */
  strays: number
  /** The heights of its face 0…1 at a place; null: flat. */
  face: ((x: number, y: number) => number) | null
  /** Whether it catches on a rough ground by itself. */
  ground: boolean
}

/** A whole number 0…2³²−1 that looks dealt, of two and a seed (the finaliser of MurmurHash3, Appleby 2011). */
export function dealt(a: number, b: number, seed: number): number {
  let h = (Math.imul(a, 0x9e3779b1) ^ Math.imul(b, 0x85ebca77) ^ Math.imul(seed, 0xc2b2ae3d)) >>> 0
  h = Math.imul(h ^ (h >>> 16), 0x85ebca6b) >>> 0
  h = Math.imul(h ^ (h >>> 13), 0xc2b2ae35) >>> 0
  return (h ^ (h >>> 16)) >>> 0
}

const unit = (a: number, b: number, seed: number) => dealt(a, b, seed) / 2 ** 32
const smooth = (t: number) => t * t * (3 - 2 * t)

/** Value noise of cells of a size, repeating after `period` cells. */
function noise(x: number, y: number, size: number, period: number, seed: number): number {
  const [cx, cy] = [Math.floor(x / size), Math.floor(y / size)]
  const [fx, fy] = [smooth(x / size - cx), smooth(y / size - cy)]
  const at = (i: number, j: number) => unit((((cx + i) % period) + period) % period, (((cy + j) % period) + period) % period, seed)
  const top = at(0, 0) + (at(1, 0) - at(0, 0)) * fx
  const low = at(0, 1) + (at(1, 1) - at(0, 1)) * fx
  return top + (low - top) * fy
}

export const tips: Readonly<Record<TipId, Tip>> = {
  soft: {
    title: 'Soft',
    help: 'A round brush without a face of its own.',
    aspect: 1,
    dabs: 12,
    softness: 1,
    wet: 0,
    rolls: false,
    strays: 0,
    face: null,
    ground: false,
  },
  firm: {
    title: 'Firm',
    help: 'A round tip with a clear rim.',
    aspect: 1,
    dabs: 24,
    softness: 0.15,
    wet: 0,
    rolls: false,
    strays: 0,
    face: null,
    ground: false,
  },
  chisel: {
    title: 'Chisel',
    help: 'A flat tip: broad across, thin along.',
    aspect: 0.22,
    dabs: 48,
    softness: 0.2,
    wet: 0,
    rolls: false,
    strays: 0,
    face: null,
    ground: false,
  },
  'dry-bristle': {
    title: 'Dry bristle',
    help: 'Single hairs that leave streaks along the way.',
    aspect: 1,
    dabs: 20,
    softness: 0.35,
    wet: 0,
    rolls: false,
    strays: 0,
    // streaks along the way: hairs stand in tufts, and differ across only
    face: (_, y) => 0.5 * noise(y, 0, 1.3, 64, 11) + 0.5 * noise(y, 0, 4.5, 64, 12),
    ground: false,
  },
  'wet-edge': {
    title: 'Wet edge',
    help: 'Thin paint that gathers at its rim as it dries.',
    aspect: 1,
    dabs: 12,
    softness: 0.6,
    wet: 0.8,
    rolls: false,
    strays: 0,
    face: null,
    ground: false,
  },
  sponge: {
    title: 'Sponge',
    help: 'Open pores, dabbed.',
    aspect: 1,
    dabs: 3,
    softness: 0.3,
    wet: 0,
    rolls: true,
    strays: 0.12,
    face: (x, y) => 0.6 * noise(x, y, 7, 64, 21) + 0.4 * noise(x, y, 3, 64, 22),
    ground: false,
  },
  chalk: {
    title: 'Chalk',
    help: 'A dry stick that takes on what stands up.',
    aspect: 0.7,
    dabs: 14,
    softness: 0.25,
    wet: 0,
    rolls: true,
    strays: 0.02,
    face: (x, y) => 0.5 + 0.5 * noise(x, y, 2, 64, 31),
    ground: true,
  },
  spatter: {
    title: 'Spatter',
    help: 'Drops flicked from the hairs.',
    aspect: 1,
    dabs: 2,
    softness: 0.5,
    wet: 0,
    rolls: true,
    strays: 0.35,
    face: (x, y) => drops(x, y),
    ground: false,
  },
}

/** Drops of several sizes: 1 in the middle of one, 0 between. */
function drops(x: number, y: number): number {
  let best = 0
  for (let i = 0; i < 26; i++) {
    const [cx, cy] = [unit(i, 1, 41) * TIP_SIDE, unit(i, 2, 41) * TIP_SIDE]
    const u = unit(i, 3, 41)
    const size = 0.7 + 4.6 * (u * u * u)
    const d = Math.sqrt((x - cx) ** 2 + (y - cy) ** 2)
    best = Math.max(best, Math.min(1, Math.max(0, size + 0.9 - d)))
  }
  return best
}

/** The heights of a tip's face as codes; null for a flat one. */
export function faceOf(tip: Tip): Uint16Array | null {
  const { face } = tip
  if (!face) return null
  return Uint16Array.from({ length: TIP_SIDE * TIP_SIDE }, (_, i) =>
    Math.round(Math.min(1, Math.max(0, face((i % TIP_SIDE) + 0.5, Math.floor(i / TIP_SIDE) + 0.5))) * 65535),
  )
}

/** Heights of a rough ground that chalk and dry hairs catch on where the artwork has no paper of its own: evenly spread, repeating. */
export function groundHeights(): Uint16Array {
  const n = TOOTH_SIDE
  const raw = Float64Array.from({ length: n * n }, (_, i) => {
    const [x, y] = [i % n, Math.floor(i / n)]
    return 0.5 * noise(x, y, 2, n / 2, 51) + 0.3 * noise(x, y, 4, n / 4, 52) + 0.2 * unit(x, y, 53)
  })
  // by rank, so that a threshold at a height lets that share through
  const order = Uint32Array.from(raw.keys()).sort((a, b) => raw[a]! - raw[b]! || a - b)
  const heights = new Uint16Array(n * n)
  order.forEach((at, rank) => (heights[at] = Math.round((rank / (n * n - 1)) * 65535)))
  return heights
}
