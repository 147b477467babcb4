import type { Triple } from './oklab.ts'

// taken once: loops over planes look nothing up
const { max, min, sqrt } = Math

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
      low = min(low, p[c]!)
      high = max(high, p[c]!)
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
      const weight = b.spread * sqrt(b.points.length)
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
 * At most n colours by k-means: once from the median cut and once from points far from each other, whichever leaves the smaller sum of squares;
 * each stops when no point changes its mean, or after `rounds`.
 * Lloyd, "Least squares quantization in PCM", IEEE Trans. Information Theory 28 (1982); the farthest-first start is Gonzalez 1985.
 */
export function kMeans(points: readonly Triple[], n: number, rounds = 24): Triple[] {
  const [cut, far] = [medianCut, farthestFirst].map((start) => lloyd(points, start(points, n), rounds))
  return far!.squares < cut!.squares ? far!.centres : cut!.centres
}

/** At most n of the points: the first is farthest from the mean, each other farthest from those before. */
function farthestFirst(points: readonly Triple[], n: number): Triple[] {
  if (points.length === 0) return []
  const chosen: Triple[] = []
  let from = meanOf(points)
  const away = new Float64Array(points.length).fill(Infinity)
  while (chosen.length < n) {
    let at = 0
    points.forEach((p, i) => {
      away[i] = min(away[i]!, between(p, from))
      if (away[i]! > away[at]!) at = i
    })
    if (away[at] === 0) break
    // distances to the mean are forgotten once there is a point to measure from
    if (chosen.length === 0) away.fill(Infinity)
    chosen.push((from = points[at]!))
  }
  return chosen.length ? chosen : [from]
}

function lloyd(points: readonly Triple[], start: Triple[], rounds: number): { centres: Triple[]; squares: number } {
  let centres = start
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
  return { centres, squares: points.reduce((sum, p) => sum + between(p, centres[nearest(p, centres)]!), 0) }
}

/** The square of the distance of two points. */
const between = (p: Triple, c: Triple) => (p[0] - c[0]) ** 2 + (p[1] - c[1]) ** 2 + (p[2] - c[2]) ** 2

/** The index of the centre nearest to a point; of equally near ones the first. */
export function nearest(p: Triple, centres: readonly Triple[]): number {
  let best = Infinity
  let at = 0
  for (let k = 0; k < centres.length; k++) {
    const d = between(p, centres[k]!)
    if (d < best) {
      best = d
      at = k
    }
  }
  return at
}
