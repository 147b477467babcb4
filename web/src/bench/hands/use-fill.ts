import { isStudyPart, type PlaneAddress, type PlaneFrom } from '@nimble-quill/core'
import { useStore } from 'react-redux'
import { tellTrouble } from '../../parts/tell.tsx'
import { useAct, type RootState } from '../../store/store.ts'
import { useEngine } from '../engine-context.ts'
import { sendParts } from '../keeping/parts.ts'
import { command } from '../slice.ts'
import { layingOf } from './laying.ts'

/** Fills a whole plane, clears it, or makes it from a picture: one entry of the history. */
export function useFill() {
  const act = useAct()
  const engine = useEngine()
  const store = useStore<RootState>()
  return async (at: PlaneAddress, what: 'fill' | 'clear' | (PlaneFrom & { type: 'picture' })): Promise<void> => {
    const { hands, bench } = store.getState()
    if (!bench.history) return
    const laying =
      at.part === 'light' || (isStudyPart(at.part) && at.part !== 'flow')
        ? ({ type: 'grey', value: 32768 } as const)
        : layingOf({ on: at, doing: what === 'clear' ? 'take' : 'lay', colour: hands.colour })
    try {
      engine.setArtwork(bench.history.artwork)
      const painted = await engine.planeFrom(
        at,
        typeof what === 'string' ? { type: 'value', laying, ...(bench.history.artwork.area ? { area: bench.history.artwork.area.index } : {}) } : what,
      )
      const name =
        typeof what === 'string'
          ? what === 'fill'
            ? 'Fill'
            : 'Clear'
          : { tones: 'Mask from tones', edges: 'Mask from edges', alpha: 'Mask from cover' }[what.by]
      act(command({ command: { type: 'paint', at, plane: painted.plane, what: name } }))
      void sendParts(painted.parts).catch(() => undefined)
    } catch (error) {
      tellTrouble((error as Error).message)
    }
  }
}
