import { locate, type Artwork, type Layer } from '@nimble-quill/core'
import { useStore } from 'react-redux'
import { tellTrouble } from '../../parts/tell.tsx'
import { useAct, type RootState } from '../../store/store.ts'
import { useEngine } from '../engine-context.ts'
import { command } from '../slice.ts'
import { groundOf } from './ground-colour.ts'

/** Long side of the picture that the ground is looked for in. */
const LOOKED_AT = 256

/** Gives a fill the colour of the photo's own ground. */
export function useGroundFill() {
  const act = useAct()
  const engine = useEngine()
  const store = useStore<RootState>()
  return async (layer: string): Promise<void> => {
    const artwork = store.getState().bench.history?.artwork as Artwork | undefined
    if (!artwork) return
    try {
      engine.setArtwork(artwork)
      const { pixels, w, h } = await engine.picture({ target: { type: 'photo' }, side: LOOKED_AT }, new AbortController().signal)
      const colour = groundOf(new Uint8Array(pixels), w, h)
      const now = store.getState().bench.history?.artwork as Artwork | undefined
      const { source } = locate(now!.layers as Layer[], layer).layer
      if (colour && source.type === 'fill') act(command({ command: { type: 'set-fill', layer, colour, alpha: source.alpha } }))
      else tellTrouble('There is no photo in this artwork to take a ground from. The fill is left as it was.')
    } catch (error) {
      tellTrouble((error as Error).message)
    }
  }
}
