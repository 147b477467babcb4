import { planeAt, SAMPLE_NUMBERS } from '@nimble-quill/core'
import { useEffect, useRef } from 'react'
import { useStore } from 'react-redux'
import { tell, tellTrouble } from '../../parts/tell.tsx'
import { useAct, type RootState } from '../../store/store.ts'
import { forgetOldParts } from '../../engine/kept-parts.ts'
import { useEngine } from '../engine-context.ts'
import { forgetStroke, leftStrokes } from '../keeping/journal.ts'
import { command } from '../slice.ts'
import { isThere } from './targets.ts'
import { useMend } from './use-mend.ts'

/** Samples that are handed over at once. */
const PORTION = 500 * SAMPLE_NUMBERS

/** Paints the strokes again that a closed tab left unfinished, once, when the artwork is opened. */
export function useLeftStrokes(id: string): void {
  const engine = useEngine()
  const act = useAct()
  const store = useStore<RootState>()
  const mend = useMend()
  const begun = useRef(false)
  useEffect(() => {
    if (begun.current) return
    begun.current = true
    void forgetOldParts().catch(() => undefined)
    void (async () => {
      let back = 0
      for (const left of await leftStrokes(id).catch(() => [])) {
        const artwork = store.getState().bench.history?.artwork
        const { order, base, samples } = left
        // what went on from another state was painted already, or is not there any more
        const same = artwork && isThere(artwork, order.at) && (planeAt(artwork, order.at)?.plane?.index ?? null) === base
        if (same && samples.length) {
          try {
            engine.setArtwork(artwork)
            const stroke = engine.stroke(order, { target: { type: 'artwork' }, region: { ...artwork.sheet, w: 1, h: 1 }, level: 0 }, () => undefined)
            for (let i = 0; i < samples.length; i += PORTION) stroke.add(samples.slice(i, i + PORTION))
            stroke.end()
            const painted = await stroke.done
            act(command({ command: { type: 'paint', at: order.at, plane: painted.plane, what: 'Stroke, brought back,' } }))
            back++
          } catch (error) {
            tellTrouble((error as Error).message)
            continue
          }
        }
        await forgetStroke(left).catch(() => undefined)
      }
      await mend.findLeft()
      if (back)
        tell(
          back === 1
            ? 'A stroke that was not finished when the page was closed is back.'
            : `${back} strokes that were not finished when the page was closed are back.`,
        )
    })()
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [engine, act, store, id])
}
