import { alignOut, atLevel, contains, type Region } from '@nimble-quill/core'

/** Finished tiles of one level, side by side on a canvas of their own. */
class Mosaic {
  readonly canvas = document.createElement('canvas')
  region: Region = { x: 0, y: 0, w: 0, h: 0 }
  readonly level: number
  /** Pixels of an older artwork, to be replaced by the first new tile. */
  stale = false
  /** What was put there since, pixels of the level: where that is clear, nothing older shows through. */
  readonly covered = new Map<string, Region>()

  constructor(level: number) {
    this.level = level
  }

  /** Makes room for a region; what is there already is kept. */
  reach(region: Region): void {
    if (contains(this.region, region)) return
    const old = document.createElement('canvas')
    const before = this.region
    if (before.w > 0) {
      old.width = before.w
      old.height = before.h
      old.getContext('2d')!.drawImage(this.canvas, 0, 0)
    }
    this.region = alignOut(region, 512)
    this.canvas.width = this.region.w
    this.canvas.height = this.region.h
    if (before.w > 0) this.canvas.getContext('2d')!.drawImage(old, before.x - this.region.x, before.y - this.region.y)
  }

  /** What is covered, as one rectangle where it is one. */
  parts(): Region[] {
    const all = [...this.covered.values()]
    const [x0, y0] = [Math.min(...all.map((r) => r.x)), Math.min(...all.map((r) => r.y))]
    const [x1, y1] = [Math.max(...all.map((r) => r.x + r.w)), Math.max(...all.map((r) => r.y + r.h))]
    const area = all.reduce((sum, r) => sum + r.w * r.h, 0)
    return all.length > 1 && area === (x1 - x0) * (y1 - y0) ? [{ x: x0, y: y0, w: x1 - x0, h: y1 - y0 }] : all
  }

  /** Whether new tiles lie on all of a region, pixels of the level. */
  covers(region: Region): boolean {
    let open = [region]
    for (const r of this.covered.values()) open = open.flatMap((o) => besides(o, r))
    return open.length === 0
  }

  put(region: Region, pixels: ArrayBuffer): void {
    const context = this.canvas.getContext('2d')!
    if (this.stale) {
      context.clearRect(0, 0, this.canvas.width, this.canvas.height)
      this.stale = false
      this.covered.clear()
    }
    context.putImageData(new ImageData(new Uint8ClampedArray(pixels), region.w, region.h), region.x - this.region.x, region.y - this.region.y)
  }
}

/** What of a rectangle lies outside another: up to four. */
function besides(a: Region, b: Region): Region[] {
  const [x0, y0] = [Math.max(a.x, b.x), Math.max(a.y, b.y)]
  const [x1, y1] = [Math.min(a.x + a.w, b.x + b.w), Math.min(a.y + a.h, b.y + b.h)]
  if (x1 <= x0 || y1 <= y0) return [a]
  return [
    { x: a.x, y: a.y, w: a.w, h: y0 - a.y },
    { x: a.x, y: y1, w: a.w, h: a.y + a.h - y1 },
    { x: a.x, y: y0, w: x0 - a.x, h: y1 - y0 },
    { x: x1, y: y0, w: a.x + a.w - x1, h: y1 - y0 },
  ].filter((r) => r.w > 0 && r.h > 0)
}

/** The pictures of one target at the levels that were needed so far, coarse under fine. */
export class Mosaics {
  private readonly levels = new Map<number, Mosaic>()
  /** What was asked for last, artwork pixels. */
  private wanted: Region | null = null

  /** What is there is old: a coarse new tile replaces coarse and fine, a fine one its own. */
  outdate(): void {
    for (const m of this.levels.values()) m.stale = true
  }

  put(level: number, visible: Region, region: Region, pixels: ArrayBuffer): void {
    let mosaic = this.levels.get(level)
    if (!mosaic) this.levels.set(level, (mosaic = new Mosaic(level)))
    const fresh = mosaic.stale
    mosaic.reach(atLevel(visible, level))
    mosaic.put(region, pixels)
    this.wanted = visible
    mosaic.covered.set(`${region.x} ${region.y} ${region.w} ${region.h}`, region)
    if (fresh) for (const [l, m] of this.levels) if (l < level && m.stale) this.levels.delete(l)
    // levels of other zooms, two away, are let go
    for (const l of this.levels.keys()) if (Math.abs(l - level) > 2) this.levels.delete(l)
  }

  /** Puts pixels over those that are there, as a brush changes them: nothing else becomes old by it. */
  patch(level: number, visible: Region, region: Region, pixels: ArrayBuffer): void {
    let mosaic = this.levels.get(level)
    if (!mosaic) this.levels.set(level, (mosaic = new Mosaic(level)))
    const { stale } = mosaic
    mosaic.stale = false
    mosaic.reach(atLevel(visible, level))
    mosaic.put(region, pixels)
    mosaic.stale = stale
    // finer pixels of other zooms would hide it
    for (const l of this.levels.keys()) if (l < level) this.levels.delete(l)
  }

  /** Draws all levels into the window, coarse first. Stale pixels show only where nothing newer is, which `blank` clears before. `square`: pixels lie on pixels. */
  draw(
    context: CanvasRenderingContext2D,
    scale: number,
    at: { x: number; y: number },
    quality: ImageSmoothingQuality,
    square: boolean,
    blank: (window: Region) => void,
  ): void {
    const order = [...this.levels.values()].sort((a, b) => Number(b.stale) - Number(a.stale) || b.level - a.level)
    const finest = order.at(-1)
    // a whole picture is drawn alone: soft borders over older ones would tell what was there before
    if (finest && !finest.stale && this.wanted && finest.covers(atLevel(this.wanted, finest.level))) order.splice(0, order.length - 1)
    // the stale ones come first: what is new beside each other shows the same
    const over = order[0]?.stale === true
    for (const m of order) {
      const s = scale * 2 ** m.level
      if (over && !m.stale) for (const r of m.parts()) blank({ x: at.x + r.x * s, y: at.y + r.y * s, w: r.w * s, h: r.h * s })
      context.imageSmoothingEnabled = !(m.level === 0 && scale >= 1 && square)
      context.imageSmoothingQuality = quality
      context.drawImage(m.canvas, at.x + m.region.x * s, at.y + m.region.y * s, m.region.w * s, m.region.h * s)
    }
  }
}
