import { intersect, isEmpty, sameRegion, union, type Region } from '../base/region.ts'
import type { Kernels } from '../kernels/kernels.ts'
import type { Pic } from '../steps/contract.ts'
import { clearAround, fresh, partOf, paste, type Lent } from './pixels.ts'
import { NOWHERE, seen, type Edge, type Stage } from './stage.ts'

// The pixels that stages of a stream hand to their readers: where they lie in a window, and copies where they reach beyond what is held.

/** What a held stage has of its rows. */
export function windowPic(s: Stage): Pic {
  const w = s.window!
  const x = w.kept ? w.kept.region.x : s.region.x
  const width = w.kept ? w.kept.region.w : s.region.w
  return { ptr: w.ptr + w.left * s.pixelBytes, stride: w.stride, region: { x, y: w.top, w: width, h: w.hi - w.top } }
}

/** Rows of a held stage as a region that may reach beyond it, where it is clear. */
export function viewOf(kernels: Kernels, s: Stage, inside: Region, region: Region): Lent {
  const there = partOf(windowPic(s), inside, s.pixelBytes)
  if (sameRegion(inside, region)) return { ...there, own: false, done: () => undefined }
  const out = fresh(kernels, region)
  clearAround(kernels, out, intersect(inside, region))
  paste(kernels, there, out, region)
  return out
}

/** The pixels that an edge asks for. */
export function gather(kernels: Kernels, e: Edge, region: Region, made: Map<Stage, Lent>): Lent {
  const { from } = e
  const need = e.need(region)
  const inside = e.asked ? seen(e, region) : NOWHERE
  if (!from.window) {
    const mine = e.asked ? made.get(from) : undefined
    const whole = mine && sameRegion(mine.region, need)
    const out = whole ? mine : fresh(kernels, need)
    if (mine) made.delete(from)
    if (whole) return out
    clearAround(kernels, out, inside)
    if (mine && !isEmpty(inside)) paste(kernels, mine, out, inside)
    mine?.done()
    return out
  }
  const w = from.window
  const pic = windowPic(from)
  if (sameRegion(inside, need)) return { ...partOf(pic, need, from.pixelBytes), own: false, done: () => undefined }
  if (e.beyond === 'repeat' && need.y === inside.y && need.h === inside.h && !w.kept) {
    const left = from.region.x - need.x
    const right = need.x + need.w - from.region.x - from.region.w
    const spans = from.region.x === from.extent.x || left <= 0
    if (spans && left <= w.left && right <= w.right && inside.x + inside.w <= from.region.x + from.region.w)
      return { ...partOf(pic, need, from.pixelBytes), own: false, done: () => undefined }
  }
  const out = fresh(kernels, need, from.pixelBytes)
  if (e.beyond === 'clear') {
    clearAround(kernels, out, inside)
    if (!isEmpty(inside)) paste(kernels, pic, out, inside)
    return out
  }
  repeated(kernels, pic, from, need, inside, out)
  return out
}

/** Fills `out` with a picture whose border is repeated beyond it; `inside` is what of it is seen. */
function repeated(kernels: Kernels, pic: Pic, from: Stage, need: Region, inside: Region, out: Lent): void {
  const there = intersect(inside, need)
  if (!isEmpty(there)) {
    paste(kernels, pic, out, there, from.pixelBytes)
    const x = there.x - need.x
    const y = there.y - need.y
    kernels.raw.replicateEdges(out.ptr, out.stride, need.w, need.h, x, y, x + there.w, y + there.h)
    return
  }
  // all beyond: the nearest row and column, in a picture of their own
  const all = union(need, inside)
  const wide = fresh(kernels, all, from.pixelBytes)
  paste(kernels, pic, wide, inside, from.pixelBytes)
  const [x, y] = [inside.x - all.x, inside.y - all.y]
  kernels.raw.replicateEdges(wide.ptr, wide.stride, all.w, all.h, x, y, x + inside.w, y + inside.h)
  paste(kernels, wide, out, need, from.pixelBytes)
  wide.done()
}
