import { allLayers, freshId, locate, newLayer, perform, type Artwork, type Layer, type Target } from '@nimble-quill/core'
import { useStore } from 'react-redux'
import { tellTrouble, tellWorking } from '../../parts/tell.tsx'
import { useAct, type RootState } from '../../store/store.ts'
import { useEngine } from '../engine-context.ts'
import { sendParts } from '../keeping/parts.ts'
import { choose, command } from '../slice.ts'

/** What is made pixels: chosen layers in their place, or all that is seen, as a copy on top. */
export type Merging = { layers: string[]; name: string } | 'copy'

/** Makes layers pixels for good, at full size, as one entry of the history. What lies outside of the sheet is left out. */
export function useMerge() {
  const act = useAct()
  const engine = useEngine()
  const store = useStore<RootState>()
  return async (what: Merging): Promise<void> => {
    const artwork = store.getState().bench.history?.artwork as Artwork | undefined
    if (!artwork) return
    const stopper = new AbortController()
    const done = tellWorking(what === 'copy' ? 'A flattened copy is being made, at full size.' : 'Layers are being merged, at full size.', () =>
      stopper.abort(),
    )
    try {
      const layer = newLayer(what === 'copy' ? 'Flattened copy' : what.name, { type: 'paint', plane: null })
      const { of, target } = toPixels(artwork, what)
      // the place for the pixels is hidden, so that it is not in its own picture
      engine.setArtwork({ ...of, layers: [...of.layers, { ...layer, visible: false }] })
      const painted = await engine.planeFrom({ layer: layer.id, step: null, part: 'paint' }, { type: 'pixels', target }, stopper.signal)
      if (store.getState().bench.history?.artwork !== artwork) throw new Error('The artwork was changed meanwhile, so nothing was merged. Ask for it again.')
      const made: Layer = { ...layer, source: { type: 'paint', plane: painted.plane } }
      act(
        command({
          command:
            what === 'copy' ? { type: 'add-layer', layer: made, index: artwork.layers.length } : { type: 'merge-layers', layers: what.layers, layer: made },
        }),
      )
      act(choose({ type: 'layer', layer: layer.id }))
      void sendParts(painted.parts).catch(() => undefined)
    } catch (error) {
      if ((error as Error).name !== 'AbortError') tellTrouble((error as Error).message)
    } finally {
      engine.setArtwork(store.getState().bench.history?.artwork ?? artwork)
      done()
    }
  }
}

/** The artwork and what of it becomes pixels: layers that are merged blend among themselves. */
function toPixels(artwork: Artwork, what: Merging): { of: Artwork; target: Target } {
  // the layers stay, and the lamp lights them through it
  if (what === 'copy') return { of: artwork, target: { type: 'artwork', unlit: true } }
  const group = freshId()
  // locked or not: nothing is changed here
  const free = { ...artwork, layers: unlocked(artwork.layers as Layer[]) }
  const grouped = perform(free, { type: 'group-layers', layers: what.layers, group, name: what.name }).artwork
  const of = perform(grouped, { type: 'set-layer', layer: group, isolated: true }).artwork
  return { of, target: { type: 'chain', layer: group, steps: 0 } }
}

const unlocked = (layers: readonly Layer[]): Layer[] =>
  [...allLayers(layers)].some((l) => l.locked)
    ? layers.map((l) => ({ ...l, locked: false, source: l.source.type === 'group' ? { ...l.source, layers: unlocked(l.source.layers as Layer[]) } : l.source }))
    : [...layers]

/** What merged layers are called: as the first of those that are chosen. */
export const mergedName = (artwork: Artwork, layers: readonly string[]): string => locate(artwork.layers as Layer[], layers[0]!).layer.name
