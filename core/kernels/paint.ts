// Paint laid by a brush or a knife, stroke upon stroke: each has one load of colour, streaked along its hairs, that runs out towards its end, and stands above what it
// lies on. A plane of paint holds four floats a pixel: red, green, blue (0…1, display-encoded) and the height of the paint, full-size pixels.
import { lerp, noise, stir } from './noise'
import { heights } from './relief'
import { loadPixel, storePixel, withAlpha } from './simd'

/** Further than anything, squared. */
const FAR: f32 = 1e30
/** Segments of a stroke that are passed over together, at least, and how many such runs there are at most. */
const RUN: i32 = 6
const RUNS: i32 = 120
/** Bytes of what is known of a stroke besides its places. */
const HEAD: usize = 32

// @ts-ignore: decorator
@inline
function held(v: v128): v128 {
  return f32x4.pmin(f32x4.splat(1), f32x4.pmax(f32x4.splat(0), v))
}

/** Noise 0…1 along a line, at four places: a hair is the same from end to end. */
// @ts-ignore: decorator
@inline
function wave(x: v128, seed: i32): v128 {
  const fx = f32x4.floor(x)
  const i = i32x4.add(i32x4.mul(f32x4.add(fx, f32x4.splat(12582912)), i32x4.splat(0x27d4eb2d)), i32x4.splat(seed))
  const t = f32x4.sub(x, fx)
  const ease = f32x4.mul(f32x4.mul(t, t), f32x4.sub(f32x4.splat(3), f32x4.add(t, t)))
  return lerp(stir(i), stir(i32x4.add(i, i32x4.splat(0x27d4eb2d))), ease)
}

/**
 * Four pixels of a stroke's row: how much of it covers each, and what its hairs do there; four floats each into `out`.
 * @returns whether any is covered; what else is told is not made otherwise
 */
// @ts-ignore: decorator
@inline
function covered(met: v128, v: v128, s: v128, half: v128, total: f32, bundles: f32, along: f32, round: f32, hair: f32, ragged: f32, ridge: f32, knife: f32, seed: i32, plain: i32, out: usize): bool {
  const one = f32x4.splat(1)
  // hairs in bundles, and finer ones in them; long along the stroke
  const u = f32x4.mul(v, f32x4.splat(bundles * 0.5))
  const w = f32x4.mul(s, f32x4.splat(along))
  let coarse = f32x4.splat(0.5)
  let hairs = coarse
  if (!plain) {
    coarse = noise(u, f32x4.mul(w, f32x4.splat(0.45)), seed)
    hairs = lerp(coarse, wave(f32x4.mul(u, f32x4.splat(2.7)), seed ^ 0x3c6ef372), f32x4.splat(0.45))
  }
  const back = f32x4.sub(f32x4.splat(total), s)
  const end = f32x4.pmin(s, back)
  // a rounded end draws the hairs together
  const k = f32x4.mul(f32x4.splat(round), half)
  const f = held(f32x4.div(f32x4.add(end, f32x4.splat(0.5)), f32x4.add(k, f32x4.splat(0.5))))
  const g = f32x4.sub(one, f)
  const shrunk = f32x4.sqrt(f32x4.sub(one, f32x4.mul(g, g)))
  const wide = f32x4.mul(half, shrunk)
  const side = f32x4.mul(f32x4.abs(v), half)
  const frayed = f32x4.splat(ragged)
  // rims wander slowly, each its own way
  const right = f32x4.lt(v, f32x4.splat(0))
  let wander = coarse
  if (!plain) wander = wave(f32x4.add(f32x4.div(s, f32x4.mul(half, f32x4.splat(1.3))), v128.and(right, f32x4.splat(31.7))), seed ^ 0x5bd1)
  const narrowed = f32x4.mul(wide, f32x4.sub(one, f32x4.mul(wander, f32x4.splat(0.1 + 0.28 * knife))))
  const rim = f32x4.sub(f32x4.sub(narrowed, side), f32x4.mul(f32x4.mul(frayed, half), f32x4.mul(hairs, f32x4.splat(0.22))))
  const tip = f32x4.sub(end, f32x4.mul(f32x4.mul(frayed, half), f32x4.mul(coarse, f32x4.splat(0.9))))
  const cover = v128.and(met, f32x4.mul(held(f32x4.add(rim, f32x4.splat(0.5))), held(f32x4.add(tip, f32x4.splat(0.5)))))
  if (!v128.any_true(f32x4.gt(cover, f32x4.splat(0)))) return false
  v128.store(out, cover)
  v128.store(out, hairs, 16)
  v128.store(out, coarse, 32)
  // paint pressed out at the rims, and left where the brush was lifted
  const rim2 = f32x4.div(side, f32x4.pmax(f32x4.splat(0.01), narrowed))
  const near = f32x4.div(end, f32x4.pmax(f32x4.splat(0.01), half))
  const bank = f32x4.mul(held(f32x4.sub(one, f32x4.mul(f32x4.abs(f32x4.sub(rim2, f32x4.splat(0.82))), f32x4.splat(6)))), held(f32x4.mul(near, f32x4.splat(3))))
  const left = held(f32x4.sub(one, f32x4.mul(f32x4.abs(f32x4.sub(near, f32x4.splat(0.3))), f32x4.splat(4))))
  const stands = f32x4.add(f32x4.mul(f32x4.sub(hairs, f32x4.splat(0.5)), f32x4.splat(0.35 * hair)), f32x4.mul(f32x4.splat(ridge), f32x4.add(f32x4.mul(bank, v128.bitselect(f32x4.splat(1 - knife), one, right)), f32x4.mul(left, f32x4.splat(0.7)))))
  // rims are rounded off: nothing stands upright
  const rise = held(f32x4.div(f32x4.pmin(f32x4.sub(narrowed, side), end), f32x4.add(f32x4.splat(1.5), f32x4.mul(half, f32x4.splat(0.16)))))
  v128.store(out, f32x4.mul(f32x4.add(stands, f32x4.add(f32x4.splat(0.75), f32x4.mul(v, f32x4.splat(0.35 * knife)))), f32x4.mul(rise, f32x4.sub(f32x4.splat(2), rise))), 48)
  return true
}

/**
 * Lays strokes of paint on a plane of it, one after the other.
 * @param points x, y, half breadth and way from the stroke's beginning (full-size pixels) of each place: four floats, stroke by stroke
 * @param paints red, green, blue and load (1 full … 0 dry) of each place: four floats
 * @param counts places of each stroke (at least two), n of them
 * @param heads of each stroke eight floats: a number of its own, half its breadth (full-size pixels), height of its paint (full-size pixels), how much it covers (0…1),
 * what its hairs differ by in red, green and blue, and in all three together
 * @param scale pixels of the level a full-size pixel; @param pitch full-size pixels from one bundle of hairs to the next
 * @param round 0 cut straight … 1 half a circle at its ends; @param hair 0 all hairs alike … 1 each holds what it holds; @param ragged how uneven rims and ends are, 0…1
 * @param ridge how much of the paint is pressed out at the rims and left at the end, 0…1; @param catches how much sooner what stands high takes paint, a full-size pixel
 * @param knife 0 a brush … 1 a knife: flattens what lies there, wanders at its rims, leaves its ridge on one side and a facet that leans
 * @param plain 1: hairs are not told apart, as where they are finer than pixels
 * @rows plane +y0
 * @work w * h * 40
 * @scratch (w + 8) * 20 + 1200
 */
export function layPaint(
  plane: usize, planeStride: i32, w: i32, h: i32, x0: i32, y0: i32,
  points: usize, paints: usize, counts: usize, heads: usize, n: i32,
  scale: f32, pitch: f32, round: f32, hair: f32, ragged: f32, ridge: f32, catches: f32, knife: f32, plain: i32, scratch: usize,
): void {
  const row = <usize>(w + 8) << 2
  const best = scratch
  const across = best + row
  const ways = across + row
  const parts = ways + row
  const halves = parts + row
  const out = halves + row
  const runs = out + 64
  for (let i = 0; i < w + 8; i++) store<f32>(best + (<usize>i << 2), FAR)
  const lanes = f32x4(0.5, 1.5, 2.5, 3.5)
  // how far beyond its rim a stroke is looked at: nothing is covered there, but which segment is nearest is decided
  const rim: f32 = plain ? 0.5 : 1
  const reach: f32 = plain ? 1 : 2
  for (let k = 0; k < n; k++) {
    const count = load<i32>(counts + (<usize>k << 2))
    const head = heads + <usize>k * HEAD
    let left: f32 = FAR
    let right: f32 = -FAR
    let top: f32 = FAR
    let low: f32 = -FAR
    // a row looks at the runs of segments alone that can meet it
    const each = max<i32>(RUN, (count + RUNS - 2) / RUNS)
    let run = runs
    for (let i = 0; i + 1 < count; i += each) {
      let high: f32 = FAR
      let deep: f32 = -FAR
      const until = min<i32>(count - 1, i + each)
      for (let j = i; j <= until; j++) {
        const p = points + (<usize>j << 4)
        const x = load<f32>(p) * scale
        const y = load<f32>(p, 4) * scale
        const r = load<f32>(p, 8) * scale + reach
        left = min<f32>(left, x - r)
        right = max<f32>(right, x + r)
        high = min<f32>(high, y - r)
        deep = max<f32>(deep, y + r)
      }
      store<f32>(run, high)
      store<f32>(run, deep, 4)
      run += 8
      top = min<f32>(top, high)
      low = max<f32>(low, deep)
    }
    const from = max<i32>(0, <i32>Math.floor(<f64>top) - y0)
    const to = min<i32>(h - 1, <i32>Math.ceil(<f64>low) - y0)
    if (from <= to && right >= <f32>x0 && left <= <f32>(x0 + w)) {
      const seed = <i32>load<f32>(head)
      const bundles: f32 = max<f32>(2, (2 * load<f32>(head, 4)) / pitch)
      const along: f32 = 1 / (pitch * 30 * scale)
      const high = load<f32>(head, 8)
      const solid = load<f32>(head, 12)
      const tint = f32x4(load<f32>(head, 16), load<f32>(head, 20), load<f32>(head, 24), 0)
      const streak = load<f32>(head, 28)
      const total = load<f32>(points + (<usize>(count - 1) << 4), 12) * scale
      for (let y = from; y <= to; y++) {
        const yc = <f32>(y0 + y) + 0.5
        let first = w
        let last = -1
        for (let i = 0; i + 1 < count; i++) {
          if (i % each == 0) {
            const r = runs + (<usize>(i / each) << 3)
            if (yc < load<f32>(r) || yc > load<f32>(r, 4)) {
              i += each - 1
              continue
            }
          }
          const p = points + (<usize>i << 4)
          const ax = load<f32>(p) * scale
          const ay = load<f32>(p, 4) * scale
          const ra = load<f32>(p, 8) * scale
          const bx = load<f32>(p, 16) * scale
          const by = load<f32>(p, 20) * scale
          const rb = load<f32>(p, 24) * scale
          const r = max<f32>(ra, rb) + rim
          const ry = yc - ay
          if (yc < min<f32>(ay, by) - r || yc > max<f32>(ay, by) + r) continue
          const dx = bx - ax
          const dy = by - ay
          const square = dx * dx + dy * dy
          if (square < 1e-9) continue
          const long = sqrt<f32>(square)
          // the strip of the segment meets the row from xa to xb
          let xa: f32 = min<f32>(ax, bx) - r
          let xb: f32 = max<f32>(ax, bx) + r
          if (abs<f32>(dy) > 1e-4 * long) {
            const middle = ax + (ry * dx) / dy
            const wide = (r * long) / abs<f32>(dy)
            xa = max<f32>(xa, middle - wide)
            xb = min<f32>(xb, middle + wide)
          }
          // and what lies along it, with room for the bends between segments
          if (abs<f32>(dx) > 1e-4 * long) {
            const room: f32 = 0.6 * r * long + 2 * long
            const a = ax + (-room - ry * dy) / dx
            const b = ax + (square + room - ry * dy) / dx
            xa = max<f32>(xa, min<f32>(a, b))
            xb = min<f32>(xb, max<f32>(a, b))
          } else if (ry * dy < -0.6 * r * long - 2 * long || ry * dy > square + 0.6 * r * long + 2 * long) continue
          // always the same four pixels together: what was just stored is read again as it was stored
          const ia = max<i32>(0, <i32>floor<f32>(xa) - x0) & ~3
          const ib = min<i32>(w - 1, <i32>ceil<f32>(xb) - x0)
          if (ia > ib) continue
          if (ia < first) first = ia
          if (ib > last) last = ib
          const inverse: f32 = 1 / square
          const beyond: f32 = 1.5 / long
          const lowest = f32x4.splat(i == 0 ? -beyond : 0)
          const highest = f32x4.splat(i + 2 == count ? 1 + beyond : 1)
          const sa = load<f32>(p, 12) * scale
          const ds = load<f32>(p, 28) * scale - sa
          for (let c = ia; c <= ib; c += 4) {
            const at = <usize>c << 2
            const rx = f32x4.sub(f32x4.add(f32x4.splat(<f32>(x0 + c)), lanes), f32x4.splat(ax))
            const t = f32x4.mul(f32x4.add(f32x4.mul(rx, f32x4.splat(dx)), f32x4.splat(ry * dy)), f32x4.splat(inverse))
            const tc = f32x4.pmin(highest, f32x4.pmax(lowest, t))
            const ex = f32x4.sub(rx, f32x4.mul(tc, f32x4.splat(dx)))
            const ey = f32x4.sub(f32x4.splat(ry), f32x4.mul(tc, f32x4.splat(dy)))
            const d2 = f32x4.add(f32x4.mul(ex, ex), f32x4.mul(ey, ey))
            const old = v128.load(best + at)
            const nearer = f32x4.lt(d2, old)
            if (!v128.any_true(nearer)) continue
            const inside = held(tc)
            const half = f32x4.pmax(f32x4.splat(0.05), f32x4.add(f32x4.splat(ra), f32x4.mul(inside, f32x4.splat(rb - ra))))
            // on which side of the way
            const side = f32x4.sub(f32x4.mul(rx, f32x4.splat(dy)), f32x4.splat(ry * dx))
            const d = f32x4.sqrt(d2)
            const v = f32x4.div(v128.bitselect(f32x4.neg(d), d, f32x4.lt(side, f32x4.splat(0))), half)
            v128.store(best + at, v128.bitselect(d2, old, nearer))
            v128.store(across + at, v128.bitselect(v, v128.load(across + at), nearer))
            v128.store(ways + at, v128.bitselect(f32x4.add(f32x4.splat(sa), f32x4.mul(tc, f32x4.splat(ds))), v128.load(ways + at), nearer))
            v128.store(parts + at, v128.bitselect(f32x4.add(f32x4.splat(<f32>i), inside), v128.load(parts + at), nearer))
            v128.store(halves + at, v128.bitselect(half, v128.load(halves + at), nearer))
          }
        }
        if (first > last) continue
        const line = plane + <usize>y * <usize>planeStride
        for (let c = first; c <= last; c += 4) {
          const at = <usize>c << 2
          const met = f32x4.lt(v128.load(best + at), f32x4.splat(FAR))
          if (!v128.any_true(met)) continue
          const half = v128.load(halves + at)
          const over = v128.load(across + at)
          // nothing beyond its rim is covered
          if (!v128.any_true(v128.and(met, f32x4.lt(f32x4.mul(f32x4.sub(f32x4.abs(over), f32x4.splat(1)), half), f32x4.splat(0.51))))) continue
          if (!covered(met, over, v128.load(ways + at), half, total, bundles, along, round, hair, ragged, ridge, knife, seed, plain, out)) continue
          const until = min<i32>(4, last + 1 - c)
          for (let j = 0; j < until; j++) {
            const lane = <usize>j << 2
            let cover = load<f32>(out + lane)
            if (cover <= 0) continue
            const q = load<f32>(parts + at + lane)
            const i = min<i32>(count - 2, <i32>q)
            const paint = paints + (<usize>i << 4)
            const c0 = v128.load(paint)
            const colour = f32x4.add(c0, f32x4.mul(f32x4.splat(q - <f32>i), f32x4.sub(v128.load(paint, 16), c0)))
            const loaded = f32x4.extract_lane(colour, 3)
            const hairs = load<f32>(out + lane, 16)
            // a hair that holds little runs dry first
            const pixel = line + (<usize>(c + j) << 4)
            const there = v128.load(pixel)
            const wet: f32 = 4 * (loaded * (1 + hair) - hair * hairs) + catches * f32x4.extract_lane(there, 3)
            if (wet <= 0) continue
            cover *= min<f32>(1, wet) * solid
            const body: f32 = high * (0.35 + 0.65 * loaded) * load<f32>(out + lane, 48)
            const by = f32x4.add(f32x4.splat(streak * (hairs - 0.5)), f32x4.mul(tint, f32x4.splat(load<f32>(out + lane, 32) - 0.5)))
            // what lies beneath is pressed flatter, not away
            const stands: f32 = body + (0.3 - 0.26 * knife) * f32x4.extract_lane(there, 3)
            const fresh = f32x4.replace_lane(f32x4.add(colour, by), 3, stands)
            v128.store(pixel, f32x4.add(there, f32x4.mul(f32x4.splat(cover), f32x4.sub(fresh, there))))
          }
        }
        for (let c = first; c <= last + 3; c++) store<f32>(best + (<usize>c << 2), FAR)
      }
    }
    points += <usize>count << 4
    paints += <usize>count << 4
  }
}

/**
 * Fills a plane of paint from a small picture of it, between the middles of four of its pixels.
 * @param ground sw × sh pixels of four floats, groundRow bytes a row (only what the region looks at need be there); @param step pixels of it a pixel of the plane; (x0, y0): the first pixel's place
 * @rows plane +y0
 * @work w * h * 4
 */
export function enlargePaint(plane: usize, planeStride: i32, w: i32, h: i32, x0: i32, y0: i32, ground: usize, groundRow: i32, sw: i32, sh: i32, step: f32): void {
  for (let y = 0; y < h; y++) {
    const v = max<f32>(0, min<f32>(<f32>(sh - 1), (<f32>(y0 + y) + 0.5) * step - 0.5))
    const iy = min<i32>(max<i32>(0, sh - 2), <i32>v)
    const fy = f32x4.splat(v - <f32>iy)
    const down: usize = sh > 1 ? <usize>groundRow : 0
    for (let x = 0; x < w; x++) {
      const u = max<f32>(0, min<f32>(<f32>(sw - 1), (<f32>(x0 + x) + 0.5) * step - 0.5))
      const ix = min<i32>(max<i32>(0, sw - 2), <i32>u)
      const fx = f32x4.splat(u - <f32>ix)
      const right: usize = sw > 1 ? 16 : 0
      const p = ground + <usize>iy * <usize>groundRow + (<usize>ix << 4)
      const a = lerp(v128.load(p), v128.load(p + right), fx)
      const b = lerp(v128.load(p + down), v128.load(p + down + right), fx)
      v128.store(plane + (<usize>x << 4), lerp(a, b, fy))
    }
    plane += planeStride
  }
}

/**
 * Adds the threads of a canvas to a plane of paint: `high` full-size pixels from hollows to tops, about nothing in the middle; `k`: pixels of the level to its pitch, inverted.
 * @rows plane +y0
 * @work w * h * 12
 */
export function weavePaint(plane: usize, planeStride: i32, w: i32, h: i32, x0: i32, y0: i32, k: f32, high: f32, seed: i32): void {
  const lanes = f32x4(0.5, 1.5, 2.5, 3.5)
  for (let y = 0; y < h; y++) {
    const v = f32x4.splat((<f32>(y0 + y) + 0.5) * k)
    for (let x = 0; x < w; x += 4) {
      const u = f32x4.mul(f32x4.add(f32x4.splat(<f32>(x0 + x)), lanes), f32x4.splat(k))
      const by = f32x4.mul(f32x4.sub(heights(0, u, v, seed), f32x4.splat(0.5)), f32x4.splat(high))
      const p = plane + (<usize>x << 4) + 12
      store<f32>(p, load<f32>(p) + f32x4.extract_lane(by, 0))
      if (x + 1 < w) store<f32>(p, load<f32>(p, 16) + f32x4.extract_lane(by, 1), 16)
      if (x + 2 < w) store<f32>(p, load<f32>(p, 32) + f32x4.extract_lane(by, 2), 32)
      if (x + 3 < w) store<f32>(p, load<f32>(p, 48) + f32x4.extract_lane(by, 3), 48)
    }
    plane += planeStride
  }
}

/** What of the light comes from all sides. */
const ROOM: f32 = 0.48

/**
 * Lights paint: a flat place keeps its colour; ridges throw shadows, and shine where they turn to the lamp. The plane reaches m pixels beyond the picture on all sides;
 * alpha is src's. A clear pixel stays as it is.
 * @param k pixels of the level a full-size pixel; (lx, ly, lz) where the light comes from, x to the right, y down, z to the eye, length 1
 * @param gloss 0 matt … 1 varnished; @param reach how far shadows are looked for, pixels of the level, at most m - 1
 * @rows plane src dst
 * @work w * h * 30
 */
export function lightPaint(
  plane: usize, planeStride: i32, m: i32, src: usize, srcStride: i32, dst: usize, dstStride: i32, w: i32, h: i32,
  k: f32, lx: f32, ly: f32, lz: f32, gloss: f32, reach: i32,
): void {
  const flatness = sqrt<f32>(lx * lx + ly * ly)
  const climb: f32 = flatness > 0.001 ? lz / flatness : FAR
  const ux: f32 = flatness > 0.001 ? lx / flatness : 0
  const uy: f32 = flatness > 0.001 ? ly / flatness : 0
  // half way between the lamp and the eye
  const hl = sqrt<f32>(lx * lx + ly * ly + (lz + 1) * (lz + 1))
  for (let y = 0; y < h; y++) {
    const line = plane + <usize>m * <usize>planeStride + (<usize>m << 4)
    for (let x = 0; x < w; x++) {
      const s = src + (<usize>x << 3)
      const d = dst + (<usize>x << 3)
      const from = loadPixel(s)
      if (f32x4.extract_lane(from, 3) == 0) {
        store<u64>(d, 0)
        continue
      }
      const p = line + (<usize>x << 4)
      const dx: f32 = (load<f32>(p, 28) - load<f32>(p - 4)) * 0.5 * k
      const dy: f32 = (load<f32>(p + <usize>planeStride, 12) - load<f32>(p - <usize>planeStride, 12)) * 0.5 * k
      const here = load<f32>(p, 12) * k
      let dim: f32 = 0
      for (let i = 2; i <= reach; i++) {
        const q = p + (<isize>nearest<f32>(uy * <f32>i)) * <isize>planeStride + ((<isize>nearest<f32>(ux * <f32>i)) << 4)
        const over = load<f32>(q, 12) * k - here - <f32>i * climb
        if (over > dim) dim = over
      }
      const norm: f32 = 1 / sqrt<f32>(1 + dx * dx + dy * dy)
      let shade: f32 = max<f32>(0, (lz - dx * lx - dy * ly) * norm) / lz
      shade *= 1 - 0.55 * min<f32>(1, dim)
      let v = v128.load(p)
      if (shade <= 1) v = f32x4.mul(v, f32x4.splat(ROOM + (1 - ROOM) * shade))
      else {
        const t: f32 = 0.8 * (1 - 1 / (1 + (shade - 1) * 1.1))
        v = f32x4.add(v, f32x4.mul(f32x4.mul(f32x4.splat(t), v), f32x4.sub(f32x4.splat(1), v)))
      }
      if (gloss > 0) {
        // what a flat place would mirror is taken off: only what turns to the lamp shines
        const c = max<f32>(0, (lz + 1 - dx * lx - dy * ly) * norm) / hl
        const c2 = c * c
        const c4 = c2 * c2
        const c8 = c4 * c4
        const f = (lz + 1) / hl
        const f2 = f * f
        const f4 = f2 * f2
        const f8 = f4 * f4
        const shine = max<f32>(0, c8 * c8 * c8 - f8 * f8 * f8) * (1 - min<f32>(1, dim)) * gloss * 0.5
        v = f32x4.add(v, f32x4.mul(f32x4.splat(shine), f32x4.sub(f32x4.splat(1), v)))
      }
      storePixel(d, withAlpha(held(v), from))
    }
    plane += planeStride
    src += srcStride
    dst += dstStride
  }
}
