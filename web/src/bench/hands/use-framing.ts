import {
  contentOf,
  grow,
  laidBox,
  paintedPlaces,
  placesOnSheet,
  resizedSheet,
  scaled,
  straightenedSheet,
  turnedSheet,
  union,
  type Artwork,
  type Matrix,
  type PlaneAddress,
  type PlaneChange,
  type Region,
} from '@nimble-quill/core'
import { useStore } from 'react-redux'
import { tellTrouble } from '../../parts/tell.tsx'
import { useAct, type RootState } from '../../store/store.ts'
import { useEngine } from '../engine-context.ts'
import { sendParts } from '../keeping/parts.ts'
import { command } from '../slice.ts'

/** What is seen round the sheet while its frame is in hand: all that there is, and some room. */
export function roundSheet(artwork: Artwork): Region {
  const { x, y, w, h } = artwork.sheet
  const all = union(
    contentOf(artwork, (layer) => laidBox(artwork, layer)),
    { x, y, w, h },
  )
  // what reaches far beyond is not looked at from afar
  const near = grow({ x, y, w, h }, Math.max(w, h))
  const seen = {
    x: Math.max(all.x, near.x),
    y: Math.max(all.y, near.y),
    w: Math.min(all.x + all.w, near.x + near.w) - Math.max(all.x, near.x),
    h: Math.min(all.y + all.h, near.y + near.h) - Math.max(all.y, near.y),
  }
  return grow(seen, Math.ceil(Math.max(seen.w, seen.h) * 0.06))
}

/** What the hand *Frame* does. What is painted is brought along, which takes a moment. */
export function useFraming() {
  const act = useAct()
  const engine = useEngine()
  const store = useStore<RootState>()

  const brought = async (artwork: Artwork, places: readonly PlaneAddress[], by: Matrix): Promise<PlaneChange[]> => {
    const changes: PlaneChange[] = []
    engine.setArtwork(artwork)
    for (const at of places) {
      const { plane, parts } = await engine.planeFrom(at, { type: 'moved', by })
      changes.push({ at, plane })
      void sendParts(parts).catch(() => undefined)
    }
    return changes
  }
  const now = (): Artwork => store.getState().bench.history!.artwork
  /** What was made of an artwork that is another by now would put the other's changes out of place. */
  const same = (artwork: Artwork) => {
    if (now() !== artwork) throw new Error('The artwork was changed meanwhile, so the sheet was left as it is. Ask for it again.')
  }
  const tried = async (run: () => Promise<boolean>): Promise<boolean> => {
    try {
      return await run()
    } catch (error) {
      tellTrouble((error as Error).message)
      return false
    }
  }
  const turnBy = (by: Matrix, frame: Region, what: string) =>
    tried(async () => {
      const artwork = now()
      const planes = await brought(artwork, placesOnSheet(artwork), by)
      same(artwork)
      act(command({ command: { type: 'turn-artwork', by, frame, planes, what } }))
      return true
    })
  return {
    /** The frame itself; `gesture` names a drag. */
    frame: (frame: Region, what: string, gesture?: string) =>
      act(command({ command: { type: 'set-frame', frame, what }, ...(gesture && { gesture: `frame.${gesture}` }) })),
    /** All of it, so many pixels wide. @returns whether it could be done */
    resize: (width: number) =>
      tried(async () => {
        const artwork = now()
        const wide = Math.round(width)
        const by = resizedSheet(artwork.sheet, wide).w / artwork.sheet.w
        const planes = Number.isFinite(by) && by > 0 ? await brought(artwork, paintedPlaces(artwork), scaled(by)) : []
        same(artwork)
        act(command({ command: { type: 'resize-artwork', width: wide, planes } }))
        // what is refused is told by the command itself, and changes nothing
        return now() !== artwork || wide === artwork.sheet.w
      }),
    turn: (how: Parameters<typeof turnedSheet>[1], what: string) => {
      const { by, frame } = turnedSheet(now().sheet, how)
      return turnBy(by, frame, what)
    },
    /** Turned back by what a line is off, degrees. */
    straighten: (degrees: number, drawnIn: boolean) => {
      const { by, frame } = straightenedSheet(now().sheet, degrees, drawnIn)
      return turnBy(by, frame, 'Straighten')
    },
  }
}
