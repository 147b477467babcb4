import { MOST_PLACES, simplified, withStrokes, type Artwork, type Ink, type InkPlace } from '@nimble-quill/core'
import { tell, tellTrouble } from '../../parts/tell.tsx'
import { useEngine } from '../engine-context.ts'

/** A line may leave what the file says by this, sheet pixels. */
const OFF = 0.1
/** Characters that are read of a file, at most. */
const MOST = 16_000_000

type Change = (what: string, make: (ink: Ink) => Ink) => Promise<void>

/**
 * Brings the lines of an SVG file onto a layer of ink, at their size in millimetres from the sheet's upper left corner.
 * @param onInk from the sheet's pixels to the ink's; @param grows sheet pixels that one of the ink's is
 */
export function useBringIn(artwork: Artwork, onInk: (p: { x: number; y: number }) => { x: number; y: number } | null, grows: number, change: Change) {
  const engine = useEngine()
  return async (file: File | null): Promise<void> => {
    if (!file) return
    try {
      if (file.size > MOST) {
        tellTrouble(
          `“${file.name}” is ${Math.round(file.size / 1e6)} MB, more than the ${MOST / 1e6} MB that are read. Nothing was changed; simplify it in the program that made it.`,
        )
        return
      }
      const { places, starts, left } = await engine.readLines(await file.text())
      const { x, y, ppi } = artwork.sheet
      const px = ppi / 25.4
      const strokes: InkPlace[][] = []
      for (let k = 0; k + 1 < starts.length; k++) {
        const line: InkPlace[] = []
        for (let i = starts[k]! * 3; i < starts[k + 1]! * 3; i += 3) {
          const at = onInk({ x: x + places[i]! * px, y: y + places[i + 1]! * px })
          if (at) line.push({ ...at, half: (places[i + 2]! * px) / grows })
        }
        const thin = simplified(line, OFF / grows)
        for (let from = 0; from < thin.length - 1; from += MOST_PLACES - 1) strokes.push(thin.slice(from, from + MOST_PLACES))
      }
      await change(`Bring in “${file.name}”`, (ink) => withStrokes(ink, strokes))
      if (left > 0) tell(`${strokes.length} lines were brought in. ${left} other things (pictures, words …) were left out.`)
    } catch (error) {
      tellTrouble((error as Error).message)
    }
  }
}
