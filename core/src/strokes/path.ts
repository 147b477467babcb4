/** One thing that a pen said: whole numbers. Place in 1/64 of an artwork pixel, time in ms, pressure 0…1023, tilt in degrees. */
export interface Sample {
  x: number
  y: number
  t: number
  p: number
  tiltX: number
  tiltY: number
}

/** Units of a sample's place a pixel. */
export const SAMPLE_UNIT = 64
/** Units of full pressure. */
export const FULL_PRESSURE = 1023

/** A place on a stroke's line: artwork pixels, pressure 0…1, the way it goes (a unit vector), tilt in degrees, pixels from its beginning. */
export interface Point {
  x: number
  y: number
  p: number
  dx: number
  dy: number
  tiltX: number
  tiltY: number
  along: number
}

type Knot = Omit<Point, 'dx' | 'dy' | 'along'>

const between = (a: Knot, b: Knot, t: number): Knot => ({
  x: a.x + (b.x - a.x) * t,
  y: a.y + (b.y - a.y) * t,
  p: a.p + (b.p - a.p) * t,
  tiltX: a.tiltX + (b.tiltX - a.tiltX) * t,
  tiltY: a.tiltY + (b.tiltY - a.tiltY) * t,
})

/** Pixels that a chord may miss the curve by. */
const FLAT = 0.05
/** Chords a curve, at most. */
const CHORDS = 64

/**
 * The line of a stroke while its samples come in: a quadratic B-spline whose control points they are (each piece goes from middle to middle of
 * neighbouring samples), walked by its length. Only + − × ÷ √: the same samples give the same bits on every machine, in whatever portions they come.
 */
export class StrokePath {
  private readonly string: number
  private readonly onPoint: (p: Point) => number
  private last: Knot | null = null
  private before: Knot | null = null
  private end: Knot | null = null
  private pulled: Knot | null = null
  private along = 0
  private next = 0

  /**
   * @param string pixels that the line lags behind the pen
   * @param onPoint told of each place where a dab lies; gives back the pixels to the next one
   */
  constructor(string: number, onPoint: (p: Point) => number) {
    this.string = string
    this.onPoint = onPoint
  }

  add(s: Sample): void {
    const raw: Knot = { x: s.x / SAMPLE_UNIT, y: s.y / SAMPLE_UNIT, p: s.p / FULL_PRESSURE, tiltX: s.tiltX, tiltY: s.tiltY }
    const knot = this.pull(raw)
    if (!knot) return
    const { last, before } = this
    if (!last) {
      this.last = this.end = knot
      return
    }
    if (knot.x === last.x && knot.y === last.y) {
      this.last = { ...knot }
      return
    }
    const middle = between(last, knot, 0.5)
    // which way it goes is known from here on
    if (before) this.curve(this.end!, last, middle)
    else this.line(this.end!, middle)
    this.end = middle
    this.before = last
    this.last = knot
  }

  /** After the last sample: the line goes on to where the pen left. */
  finish(): void {
    if (!this.last) return
    // a tap goes nowhere
    if (this.before) this.line(this.end!, this.last)
    else this.onPoint({ ...this.last, dx: 1, dy: 0, along: 0 })
  }

  /** Where the brush is, pulled on its string behind the pen; null where the string is slack. */
  private pull(raw: Knot): Knot | null {
    const { pulled, string } = this
    if (!pulled || string === 0) return (this.pulled = raw)
    const [x, y] = [raw.x - pulled.x, raw.y - pulled.y]
    const far = Math.sqrt(x * x + y * y)
    if (far <= string) return null
    const t = (far - string) / far
    return (this.pulled = { ...raw, x: pulled.x + x * t, y: pulled.y + y * t })
  }

  private curve(a: Knot, c: Knot, b: Knot): void {
    // a chord of a parabola misses it by |a − 2c + b| / 4n²
    const [x, y] = [a.x - 2 * c.x + b.x, a.y - 2 * c.y + b.y]
    const n = Math.min(CHORDS, Math.max(1, Math.ceil(Math.sqrt(Math.sqrt(x * x + y * y) / (4 * FLAT)))))
    let from = a
    for (let i = 1; i <= n; i++) {
      const t = i / n
      const to = i === n ? b : between(between(a, c, t), between(c, b, t), t)
      this.line(from, to)
      from = to
    }
  }

  private line(a: Knot, b: Knot): void {
    const [x, y] = [b.x - a.x, b.y - a.y]
    const length = Math.sqrt(x * x + y * y)
    if (length === 0) return
    const [dx, dy] = [x / length, y / length]
    while (this.next <= this.along + length) {
      const t = (this.next - this.along) / length
      this.next += this.onPoint({ ...between(a, b, t), dx, dy, along: this.next })
    }
    this.along += length
  }
}
