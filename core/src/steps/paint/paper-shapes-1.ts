import { oklabOfRgb, rgbOfHex, type Triple } from '../../colour/oklab.ts'
import { nearest } from '../../colour/quantise.ts'
import { evenedLine } from '../../paths/fair.ts'
import type { PathPoint } from '../../paths/path.ts'
import { simplified } from '../../paths/simplify.ts'
import { at, between, blurred, field, type Field } from '../../study/fields.ts'
import { area2, levelLines } from '../../study/level-lines.ts'
import { massesOf } from '../../study/masses.ts'
import { calmed, merged, type Labels } from '../../study/regions.ts'
import { defineStep, type Laying } from '../contract.ts'
import { factsOf, LIGHTNESS, papersStep, sheetOf, stacked, type Cutting, type Facts, type Sheet } from './paper-sheets.ts'

// Version 1: every sheet holds all that lies on it, outlines are rounded alone.

// taken once: loops over planes look nothing up
const { abs, max, sqrt } = Math

/** What a pixel counts towards the smallest piece where nothing matters. */
const COARSE = 0.12

/** The sheets from the lowest up: each holds its own regions and those of all that lie on it, so that it runs on under them. */
async function sheetsOf({ study, kernels, facts, extent, pause, progress }: Laying<Facts>, cutting: Cutting): Promise<Sheet[]> {
  const { piece, radius } = cutting
  const { w, h, palette: papers } = facts
  const scale = max(extent.w / w, extent.h / h)
  const least = (piece / scale) ** 2
  const sigma = max(0.8, (0.6 * radius) / scale)
  const calm: Field[] = []
  for (const v of facts.planes) {
    calm.push(await massesOf(kernels, { w, h, v }, max(1, piece / scale / 3), pause))
    progress(0.15 * calm.length)
  }
  const { pow } = kernels.raw
  const lab = papers.map((c) => oklabOfRgb(rgbOfHex(c), pow)).map(([l, a, b]): Triple => [l * LIGHTNESS, a, b])
  let labels: Labels = { w, h, of: new Uint8Array(w * h) }
  for (let i = 0; i < w * h; i++) labels.of[i] = nearest([calm[0]!.v[i]! * LIGHTNESS, calm[1]!.v[i]! - 0.5, calm[2]!.v[i]! - 0.5], lab)
  await pause()
  labels = await calmed(kernels, labels, papers.length, sigma, pause)
  // small pieces are cut where the eye goes; elsewhere leaves, gravel and folds are left to few large ones
  const dear = (i: number) => {
    const [x, y] = [((i % w) + 0.5) * (study.w / w) - 0.5, (Math.floor(i / w) + 0.5) * (study.h / h) - 0.5]
    return COARSE + (1 - COARSE) * between(at(study.detail, x, y), 0.06, 0.4)
  }
  labels = merged(labels, least, (a, b) => sqrt((lab[a]![0] - lab[b]![0]) ** 2 + (lab[a]![1] - lab[b]![1]) ** 2 + (lab[a]![2] - lab[b]![2]) ** 2), dear)
  progress(0.7)
  await pause()
  const { order, rank } = stacked(labels, papers.length, study.ground, 0.25)
  const full = (p: PathPoint): PathPoint => ({ x: extent.x + (p.x + 0.5) * scale, y: extent.y + (p.y + 0.5) * scale })
  const sheets: Sheet[] = []
  for (let i = 0; i < order.length; i++) {
    await pause()
    progress(0.7 + (0.3 * i) / order.length)
    const colour = papers[order[i]!]!
    if (i === 0) {
      sheets.push({ colour, path: [], core: null })
      continue
    }
    const out = field(w, h)
    for (let k = 0; k < w * h; k++) out.v[k] = rank[labels.of[k]!]! >= i ? 0 : 1
    const lines = levelLines(blurred(kernels, out, sigma), 0.5)
      .filter((line) => abs(area2(line)) / 2 >= least * 0.4)
      .map((line) => evenedLine(line, max(1, sigma), true))
      .map((line) =>
        simplified([...line, line[0]!], 0.08)
          .slice(0, -1)
          .map(full),
      )
      .filter((line) => line.length > 2)
    if (lines.length === 0) continue
    sheets.push(sheetOf(kernels, colour, lines, i, cutting))
  }
  return sheets
}

export const paperShapes1 = defineStep({
  ...papersStep,
  version: 1,
  method:
    'Masses by rolling guidance (Zhang et al. 2014), papers by k-means in OKLab, regions merged from the smallest (Koepfler, Lopez and Morel 1994), outlines by level lines (marching squares), evened to a radius',
  // a torn edge strays the farther the thicker the paper is
  drawnBy: ({ edge }) => (edge === 'cut' ? ['thickness'] : []),
  analysedBy: ['colours', 'count'],
  analyse: (work, { colours, count }): Facts => factsOf(work, colours, Math.round(count)),
  lay: (work: Laying<Facts>, p) =>
    sheetsOf(work, { piece: p.piece, radius: p.radius, edge: p.edge as 'cut' | 'torn', thickness: p.edge === 'torn' ? p.thickness : 0 }),
})
