// Heights of what pictures are made on: woven canvas, laid paper, paper pressed by felts, board. Functions of the place on the sheet, in units of their pitch; none repeats.
import { noise } from './noise'

// @ts-ignore: decorator
@inline
export function flat(v: f32): v128 {
  return f32x4.splat(v)
}
// @ts-ignore: decorator
@inline
export function times(a: v128, k: f32): v128 {
  return f32x4.mul(a, f32x4.splat(k))
}

/** cos(πt), by a polynomial of the distance to the nearest even number: within 0.0006. */
// @ts-ignore: decorator
@inline
function wave(t: v128): v128 {
  const d = f32x4.abs(f32x4.sub(t, times(f32x4.nearest(times(t, 0.5)), 2)))
  // cos(πd) = −sin(π(d − ½)), d in 0…1
  const s = f32x4.sub(d, flat(0.5))
  const q = f32x4.mul(s, s)
  const p = f32x4.add(flat(-5.1677), times(q, 2.5502))
  return f32x4.sub(flat(0), f32x4.mul(s, f32x4.add(flat(3.14159), f32x4.mul(q, f32x4.sub(p, f32x4.mul(q, times(q, 0.5993)))))))
}

/** Value noise of one size without the squares of its lattice: three lattices, turned against each other. Mean 0.5, about as deep as one. */
// @ts-ignore: decorator
@inline
function grown(u: v128, v: v128, seed: i32): v128 {
  const a = noise(f32x4.add(times(u, 0.8480481), times(v, 0.5299192)), f32x4.sub(times(v, 0.8480481), times(u, 0.5299192)), seed)
  const b = noise(f32x4.add(times(u, 0.2334454), times(v, 0.9723699)), f32x4.sub(times(v, 0.2334454), times(u, 0.9723699)), seed ^ 0x5f356495)
  const c = noise(f32x4.sub(times(u, 0.5735764), times(v, 0.8191520)), f32x4.add(times(v, 0.5735764), times(u, 0.8191520)), seed ^ 0x1f83d9ab)
  return f32x4.add(flat(0.5), times(f32x4.sub(f32x4.add(f32x4.add(a, b), c), flat(1.5)), 0.6))
}

/** One set of threads along v: its height at a place, and how it goes over (1) and under (−1) the other. `i` numbers the thread, `d` is how far off its middle. */
// @ts-ignore: decorator
@inline
function thread(i: v128, d: v128, along: v128, over: v128, seed: i32): v128 {
  // each is as thick as it was spun, with slubs here and there
  const spun = noise(times(i, 3.7), times(along, 0.09), seed)
  const k = f32x4.add(flat(0.37), times(spun, 0.13))
  const e = f32x4.div(d, k)
  // twisted out of plies, which lie aslant
  const ply = noise(f32x4.add(times(d, 5), times(along, 2.2)), times(i, 9.1), seed ^ 0x3ad5)
  const round = f32x4.sub(flat(1), f32x4.mul(e, e))
  // low enough at its borders that neighbours meet in the gaps between
  return f32x4.add(f32x4.add(times(over, 0.34), times(round, 0.72)), f32x4.add(times(spun, 0.38), f32x4.add(times(ply, 0.1), flat(-0.42))))
}

/** Plain weave: over and under in turn; threads wander and differ. */
// @ts-ignore: decorator
@inline
function canvas(u: v128, v: v128, seed: i32): v128 {
  const half = flat(0.5)
  const wu = f32x4.add(u, times(f32x4.sub(noise(times(u, 0.31), times(v, 0.06), seed), half), 0.8))
  const wv = f32x4.add(v, times(f32x4.sub(noise(times(u, 0.06), times(v, 0.31), seed ^ 0x51), half), 0.8))
  const iu = f32x4.floor(wu)
  const iv = f32x4.floor(wv)
  const du = f32x4.sub(f32x4.sub(wu, iu), half)
  const dv = f32x4.sub(f32x4.sub(wv, iv), half)
  const warp = thread(iu, du, wv, wave(f32x4.add(f32x4.sub(wv, half), iu)), seed ^ 0x1234)
  const weft = thread(iv, dv, wu, wave(f32x4.add(f32x4.add(f32x4.sub(wu, half), iv), flat(1))), seed ^ 0x4321)
  return times(f32x4.pmax(flat(0), f32x4.pmax(warp, weft)), 0.85)
}

/** Laid paper: the wires of the mould close together, chain lines across them, and the felt that took the sheet off. */
// @ts-ignore: decorator
@inline
function laidPaper(u: v128, v: v128, seed: i32): v128 {
  const line = f32x4.add(v, times(noise(times(u, 0.013), times(v, 0.11), seed), 0.8))
  const wire = f32x4.add(flat(0.5), times(wave(times(line, 2)), 0.5))
  const chain = times(f32x4.add(u, times(noise(times(u, 0.02), times(v, 0.02), seed ^ 0x2b), 1.6)), 0.042)
  const e = f32x4.pmin(flat(1), times(f32x4.abs(f32x4.sub(chain, f32x4.nearest(chain))), 9))
  const near = f32x4.sub(flat(1), f32x4.mul(e, e))
  // pressed here more, there less
  const pressed = grown(times(u, 0.11), times(v, 0.11), seed ^ 0x77)
  const wires = f32x4.mul(wire, f32x4.add(flat(0.16), times(pressed, 0.3)))
  const felt = grown(times(u, 0.62), times(v, 0.62), seed ^ 0x3d)
  const fibre = noise(times(u, 2.3), times(v, 1.9), seed ^ 0x6c)
  return f32x4.add(f32x4.add(wires, times(f32x4.mul(near, near), 0.24)), f32x4.add(times(felt, 0.42), times(fibre, 0.1)))
}

/** Pressed by felts, cold: rounded hills of about one size, hollows between them, and fibre. */
// @ts-ignore: decorator
@inline
function feltPressed(u: v128, v: v128, seed: i32): v128 {
  const bent = times(grown(times(u, 0.45), times(v, 0.45), seed ^ 0x2b), 0.45)
  const hills = grown(f32x4.add(u, bent), f32x4.sub(v, bent), seed)
  const small = noise(f32x4.add(times(u, 1.93), times(v, 1.21)), f32x4.sub(times(v, 1.93), times(u, 1.21)), seed ^ 0x99)
  const m = f32x4.pmin(flat(1), f32x4.pmax(flat(0), f32x4.add(f32x4.add(times(hills, 0.95), times(small, 0.22)), flat(-0.08))))
  // broad above, narrow below
  const round = f32x4.mul(m, f32x4.sub(flat(2), m))
  const fibre = noise(f32x4.add(times(u, 4.1), times(v, 2.6)), f32x4.sub(times(v, 4.1), times(u, 2.6)), seed ^ 0x3d)
  return f32x4.add(times(round, 0.88), times(fibre, 0.06))
}

/** Board: fine, even, hardly pressed. */
// @ts-ignore: decorator
@inline
function board(u: v128, v: v128, seed: i32): v128 {
  const grain = grown(u, v, seed)
  const fine = grown(times(u, 2.31), times(v, 2.31), seed ^ 0x99)
  return f32x4.add(times(grain, 0.55), times(fine, 0.35))
}

/** The height of a surface at four places, about 0…1: of kind 0 canvas, 1 laid, 2 cold-pressed, 3 board. */
export function surface(kind: i32, u: v128, v: v128, seed: i32): v128 {
  if (kind == 0) return canvas(u, v, seed)
  if (kind == 1) return laidPaper(u, v, seed)
  return kind == 2 ? feltPressed(u, v, seed) : board(u, v, seed)
}
