import { allLayers, freshId, locate, newLayer, type Artwork, type Layer } from '@nimble-quill/core'
import { useStore } from 'react-redux'
import { useAct, type RootState } from '../../store/store.ts'
import { useEngine } from '../engine-context.ts'
import { command } from '../slice.ts'
import { lightGroundOf } from './light-ground.ts'
import { paintOn, takeColour } from './slice.ts'

/** Long side of the picture in which the light ground is looked for. */
const LOOKED_AT = 160

/**
 * Painting out by hand where a recipe wants it: on a layer of paint above its lines and below its paper, in the sheet's light ground there. Goes on with
 * the layer that is there already.
 */
export function usePaintOut() {
  const act = useAct()
  const engine = useEngine()
  const store = useStore<RootState>()
  return async (above: string): Promise<void> => {
    const artwork = store.getState().bench.history?.artwork as Artwork | undefined
    if (!artwork) return
    const { list, index } = locate(artwork.layers as Layer[], above)
    const next = list[index + 1]
    let id = next?.source.type === 'paint' ? next.id : null
    if (!id) {
      id = freshId()
      const group = [...allLayers(artwork.layers)].find((l) => l.source.type === 'group' && l.source.layers === list)
      act(
        command({
          command: { type: 'add-layer', layer: newLayer('Painted out', { type: 'paint', plane: null }, [], id), index: index + 1, list: group?.id ?? null },
        }),
      )
    }
    act(paintOn({ layer: id, step: null, part: 'paint' }))
    try {
      engine.setArtwork(artwork)
      const { pixels } = await engine.picture({ target: { type: 'sheet', layer: above }, side: LOOKED_AT }, new AbortController().signal)
      act(takeColour(lightGroundOf(new Uint8Array(pixels))))
    } catch {
      // the colour stays as it was
    }
  }
}
