// taken once: loops over pixels look nothing up
const { abs, floor } = Math

/** What a pixel is to a membrane: to be found, its rim, which holds it, or none of its business. */
export const FREE = 1
export const RIM = 2

/** How far values may still move when it is good enough, of their own unit; and after so many rounds it is left. */
const STILL = 4
const MOST_ROUNDS = 400
/** Over-relaxation; between 1 (none) and 2. */
const OVER = 1.7
/** Rounds on each reduced size. */
const ROUNDS = 24
/** A picture this small is not reduced further. */
const SMALLEST = 4

/**
 * Spans a membrane over the free pixels: each becomes the mean of its four neighbours, which ends at the values of the rim (Laplace's equation with Dirichlet's
 * condition; where a free pixel has a neighbour that is neither, nothing pulls from there). In place. From a reduced size to the next larger one, each by successive
 * over-relaxation in red and black (Young 1954).
 * @param pause awaited before each round: lets other events happen, and throws where the work is no longer wanted
 * @param kinds FREE, RIM or 0 a pixel; @param v values of 16 bits or the like, those of the rim given
 */
export async function membrane(w: number, h: number, kinds: Uint8Array, v: Float32Array, pause: () => Promise<void> = async () => undefined): Promise<void> {
  if (w > SMALLEST || h > SMALLEST) {
    const [cw, ch] = [(w + 1) >> 1, (h + 1) >> 1]
    const coarseKinds = new Uint8Array(cw * ch)
    const coarse = new Float32Array(cw * ch)
    let any = false
    for (let y = 0; y < ch; y++)
      for (let x = 0; x < cw; x++) {
        let sum = 0
        let rim = 0
        let free = 0
        for (let j = 2 * y; j < 2 * y + 2 && j < h; j++)
          for (let i = 2 * x; i < 2 * x + 2 && i < w; i++) {
            const k = kinds[j * w + i]!
            if (k === RIM) {
              sum += v[j * w + i]!
              rim++
            } else if (k === FREE) free++
          }
        const at = y * cw + x
        if (rim > 0) {
          coarseKinds[at] = RIM
          coarse[at] = sum / rim
        } else if (free > 0) {
          coarseKinds[at] = FREE
          any = true
        }
      }
    if (any) await membrane(cw, ch, coarseKinds, coarse, pause)
    for (let y = 0, i = 0; y < h; y++)
      for (let x = 0; x < w; x++, i++) if (kinds[i] === FREE) v[i] = between(cw, ch, coarseKinds, coarse, (x - 0.5) / 2, (y - 0.5) / 2)
  }
  const rounds = w * h > 4096 ? MOST_ROUNDS : MOST_ROUNDS * 2
  for (let round = 0; round < rounds; round++) {
    await pause()
    const moved = relaxed(w, h, kinds, v)
    if (moved < STILL && round >= (w <= SMALLEST * 4 ? ROUNDS : 2)) break
  }
}

/** One round over both colours of the board. @returns how far a pixel moved at most */
function relaxed(w: number, h: number, kinds: Uint8Array, v: Float32Array): number {
  let most = 0
  for (let colour = 0; colour < 2; colour++)
    for (let y = 0; y < h; y++)
      for (let x = (y + colour) & 1; x < w; x += 2) {
        const i = y * w + x
        if (kinds[i] !== FREE) continue
        let sum = 0
        let n = 0
        if (x > 0 && kinds[i - 1] !== 0) {
          sum += v[i - 1]!
          n++
        }
        if (x + 1 < w && kinds[i + 1] !== 0) {
          sum += v[i + 1]!
          n++
        }
        if (y > 0 && kinds[i - w] !== 0) {
          sum += v[i - w]!
          n++
        }
        if (y + 1 < h && kinds[i + w] !== 0) {
          sum += v[i + w]!
          n++
        }
        if (n === 0) continue
        const by = OVER * (sum / n - v[i]!)
        v[i] = v[i]! + by
        const far = abs(by)
        if (far > most) most = far
      }
  return most
}

/** A value between four cells, of those that count. */
function between(w: number, h: number, kinds: Uint8Array, v: Float32Array, x: number, y: number): number {
  const [left, top] = [floor(x), floor(y)]
  let sum = 0
  let all = 0
  for (let j = top; j < top + 2; j++)
    for (let i = left; i < left + 2; i++) {
      if (i < 0 || j < 0 || i >= w || j >= h || kinds[j * w + i] === 0) continue
      const share = (1 - abs(x - i)) * (1 - abs(y - j))
      sum += share * v[j * w + i]!
      all += share
    }
  return all > 0 ? sum / all : 0
}
