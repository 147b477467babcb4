import type { Triple } from './oklab.ts'

interface Box {
  points: Triple[]
  axis: number
  spread: number
}

function boxOf(points: Triple[]): Box {
  let axis = 0
  let spread = -1
  for (let c = 0; c < 3; c++) {
    let [low, high] = [Infinity, -Infinity]
    for (const p of points) {
      low = Math.min(low, p[c]!)
      high = Math.max(high, p[c]!)
    }
    if (high - low > spread) {
      spread = high - low
      axis = c
    }
  }
  return { points, axis, spread }
}

const meanOf = (points: readonly Triple[]): Triple => {
  const sum: Triple = [0, 0, 0]
  for (const p of points) for (let c = 0; c < 3; c++) sum[c]! += p[c]!
  return sum.map((v) => v / points.length) as Triple
}

/**
 * At most n colours by median cut: the box with the largest spread times its root count is halved at its median, until there are n.
 * Heckbert, "Color image quantization for frame buffer display", SIGGRAPH 1982.
 * @param points colours in an even space (OKLab)
 */
export function medianCut(points: readonly Triple[], n: number): Triple[] {
  if (points.length === 0) return []
  const boxes = [boxOf([...points])]
  while (boxes.length < n) {
    let at = -1
    let most = 0
    boxes.forEach((b, i) => {
      const weight = b.spread * Math.sqrt(b.points.length)
      if (b.points.length > 1 && b.spread > 0 && weight > most) {
        most = weight
        at = i
      }
    })
    if (at < 0) break
    const { points: all, axis } = boxes[at]!
    const sorted = [...all].sort((a, b) => a[axis]! - b[axis]!)
    // equal values stay together, so that no colour is in two boxes
    let cut = sorted.length >> 1
    while (cut < sorted.length && sorted[cut]![axis] === sorted[cut - 1]![axis]) cut++
    if (cut === sorted.length) {
      cut = sorted.length >> 1
      while (cut > 0 && sorted[cut]![axis] === sorted[cut - 1]![axis]) cut--
    }
    boxes.splice(at, 1, boxOf(sorted.slice(0, cut)), boxOf(sorted.slice(cut)))
  }
  return boxes.map((b) => meanOf(b.points))
}

/**
 * At most n colours by k-means, starting from the median cut; stops when no point changes its mean, or after `rounds`.
 * Lloyd, "Least squares quantization in PCM", IEEE Trans. Information Theory 28 (1982).
 */
export function kMeans(points: readonly Triple[], n: number, rounds = 24): Triple[] {
  let centres = medianCut(points, n)
  const of = new Int32Array(points.length).fill(-1)
  for (let round = 0; round < rounds; round++) {
    let moved = false
    points.forEach((p, i) => {
      const k = nearest(p, centres)
      if (k !== of[i]) {
        of[i] = k
        moved = true
      }
    })
    if (!moved) break
    const sums = centres.map((): [number, number, number, number] => [0, 0, 0, 0])
    points.forEach((p, i) => {
      const s = sums[of[i]!]!
      for (let c = 0; c < 3; c++) s[c]! += p[c]!
      s[3]++
    })
    centres = centres.map((c, k) => (sums[k]![3] > 0 ? ([0, 1, 2].map((i) => sums[k]![i]! / sums[k]![3]) as Triple) : c))
  }
  return centres
}

/** The index of the centre nearest to a point; of equally near ones the first. */
export function nearest(p: Triple, centres: readonly Triple[]): number {
  let best = Infinity
  let at = 0
  for (let k = 0; k < centres.length; k++) {
    const c = centres[k]!
    const d = (p[0] - c[0]) ** 2 + (p[1] - c[1]) ** 2 + (p[2] - c[2]) ** 2
    if (d < best) {
      best = d
      at = k
    }
  }
  return at
}
