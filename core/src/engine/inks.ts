import { rgbOfHex } from '../colour/oklab.ts'
import { QuillError } from '../base/errors.ts'
import type { Region } from '../base/region.ts'
import { openInk, type Ink } from '../ink/ink.ts'
import { inkMarks } from '../ink/marks.ts'
import type { Kernels } from '../kernels/kernels.ts'
import type { Marks } from '../paths/marks.ts'
import { layMarks } from '../steps/line/draw-marks.ts'
import type { Pic } from '../steps/contract.ts'
import type { SourceReader } from './sources.ts'

/** Inks whose strokes are remembered as marks. */
const KNOWN = 24

/** Strokes of ink layers, opened once and drawn at any level. */
export class Inks {
  private readonly sources: SourceReader
  private readonly marks = new Map<string, Promise<Marks>>()

  constructor(sources: SourceReader) {
    this.sources = sources
  }

  /** Ink by the name of its root. @throws QuillError `plane-unreadable`, `source-unreadable` */
  open(root: string): Promise<Ink> {
    return openInk(root, (name) => {
      if (!this.sources.blob) throw new QuillError('plane-unreadable', 'Ink cannot be read: it is not there. The artwork is safe.')
      return this.sources.blob(name)
    })
  }

  /** Its marks over an extent. */
  async marksOf(root: string, extent: Region, scale: number): Promise<Marks> {
    const name = `${root} ${scale} ${JSON.stringify(extent)}`
    let found = this.marks.get(name)
    this.marks.delete(name)
    if (!found) {
      found = this.open(root).then((ink) => inkMarks(ink, extent, scale))
      found.catch(() => this.marks.delete(name))
    }
    this.marks.set(name, found)
    if (this.marks.size > KNOWN) this.marks.delete(this.marks.keys().next().value!)
    return found
  }
}

/** Draws marks in one colour on nothing. */
export function drawInk(kernels: Kernels, marks: Marks, colour: string, level: number, { ptr, stride, region }: Pic): void {
  const { w, h } = region
  const [r, g, b] = rgbOfHex(colour).map((v) => Math.round(v * 65535)) as [number, number, number]
  kernels.scratch(w * h * 4, (plane) => {
    layMarks(kernels, marks, region, level, plane)
    const cover = kernels.f32(plane, w * h)
    for (let y = 0; y < h; y++) {
      const row = kernels.u16(ptr + y * stride, w * 4)
      for (let x = 0; x < w; x++) {
        const v = cover[y * w + x]!
        const k = x * 4
        if (v <= 0) {
          row[k] = row[k + 1] = row[k + 2] = row[k + 3] = 0
          continue
        }
        row[k] = r
        row[k + 1] = g
        row[k + 2] = b
        row[k + 3] = v >= 1 ? 65535 : Math.floor(v * 65535 + 0.5)
      }
    }
  })
}
