import {
  allLayers,
  fittedInto,
  freshId,
  newLayer,
  newPanels,
  turnedHues,
  spaceOf,
  inverse,
  identity,
  times,
  tidied,
  type Artwork,
  type Layer,
  type Source,
} from '@nimble-quill/core'
import { useStore } from 'react-redux'
import { upload } from '../../desk/upload.ts'
import { tellTrouble, tellWorking } from '../../parts/tell.tsx'
import { api } from '../../store/api.ts'
import { useAct, type RootState } from '../../store/store.ts'
import { takePlace } from '../hands/slice.ts'
import { choose, command } from '../slice.ts'
import { placeAbove } from './entries.ts'

/** A picture by its file's content. */
export interface Picture {
  asset: string
  width: number
  height: number
}

/** Puts new layers above the chosen one. */
export function useAddLayer() {
  const act = useAct()
  const store = useStore<RootState>()
  const add = (name: string, source: Source, gesture?: string, matrix?: (artwork: Artwork, list: string | null) => Layer['placement']['matrix']): string => {
    const { bench } = store.getState()
    const artwork = bench.history!.artwork as Artwork
    const chosen = bench.choice && bench.choice.type !== 'recipe' ? bench.choice.layer : null
    const under = [...allLayers(artwork.layers)].find((l) => l.id === chosen)
    const place = under ? placeAbove(artwork.layers as Layer[], under.id) : { list: null, index: artwork.layers.length }
    const layer = newLayer(name.slice(0, 120) || 'Layer', source, [], freshId())
    // over a picture, a paper lets it through
    if (source.type === 'paper' && place.index > 0) layer.blend = 'multiply'
    if (matrix) layer.placement = { matrix: matrix(artwork, place.list), pivot: null }
    act(command({ command: { type: 'add-layer', layer, ...place }, ...(gesture ? { gesture } : {}) }))
    act(choose({ type: 'layer', layer: layer.id }))
    return layer.id
  }
  /** Another picture, fitted into the sheet, and ready to be placed. */
  const addPicture = (name: string, { asset, width, height }: Picture, gesture?: string) => {
    add(name.replace(/\.[a-z]+$/i, ''), { type: 'photo', asset, width, height }, gesture, (artwork, list) => {
      const own = { x: 0, y: 0, w: width, h: height }
      const laid = fittedInto(own, artwork.sheet, 'inside')
      const group = list === null ? null : [...allLayers(artwork.layers)].find((l) => l.id === list)
      const space = group ? times(spaceOf(artwork.layers as Layer[], group.id), group.placement.matrix as typeof identity) : identity
      return [...tidied(times(inverse(space) ?? identity, laid))] as Layer['placement']['matrix']
    })
    act(takePlace())
  }
  /** Two by two panels of the chosen layer (where there are several, of all that lies below), each with its hues turned. */
  const addPanels = () => {
    const { bench } = store.getState()
    const artwork = bench.history!.artwork as Artwork
    const made = turnedHues(4)
    const gesture = `panels-${made[0]!.id}`
    const only = artwork.layers.length === 1 ? artwork.layers[0]!.id : null
    const { x, y, w, h } = artwork.sheet
    act(command({ command: { type: 'set-colourways', colourways: [...artwork.colourways, ...made], what: 'Add a panel sheet' }, gesture }))
    add(
      'Panels',
      newPanels(
        only,
        2,
        2,
        made.map((c) => c.id),
        { x, y, w, h },
      ),
      gesture,
    )
  }
  /** Files that were dropped or pasted: each is put on the desk too, and becomes a layer. */
  const addFiles = async (files: readonly File[]) => {
    for (const file of files) {
      const stopper = new AbortController()
      const done = tellWorking(`Adding “${file.name}”`, () => stopper.abort())
      try {
        const photo = await upload(file, () => undefined, stopper.signal)
        act(api.util.invalidateTags(['photos']))
        if (store.getState().bench.history) addPicture(photo.name, photo)
      } catch (error) {
        if ((error as Error).name !== 'AbortError') tellTrouble((error as Error).message, file.name)
      } finally {
        done()
      }
    }
  }
  return { add, addPicture, addPanels, addFiles }
}
