import { freshId, identityPlacement, locate, newLayer, newMask, noInk, stepAt, withStrokes, type Artwork, type InkPlace, type Layer } from '@nimble-quill/core'
import { useStore } from 'react-redux'
import { tell, tellTrouble } from '../../parts/tell.tsx'
import { useAct, type RootState } from '../../store/store.ts'
import { useEngine } from '../engine-context.ts'
import { placeAbove } from '../sheet/entries.ts'
import { command } from '../slice.ts'
import { keepInk } from './ink-blobs.ts'
import { sendParts } from '../keeping/parts.ts'
import { takeInk } from './slice.ts'

/** Takes the lines of a step over as ink: a layer of strokes over the step's paper, above the layer that drew them, which is hidden. */
export function useTakeOver() {
  const act = useAct()
  const engine = useEngine()
  const store = useStore<RootState>()
  return async (layerId: string, stepId: string): Promise<void> => {
    const artwork = store.getState().bench.history!.artwork as Artwork
    try {
      engine.setArtwork(artwork)
      const { places, starts, areas, colour, laid } = await engine.linesOf(layerId, stepId)
      const strokes: InkPlace[][] = []
      for (let k = 0; k + 1 < starts.length; k++) {
        const line: InkPlace[] = []
        for (let i = starts[k]! * 3; i < starts[k + 1]! * 3; i += 3) line.push({ x: places[i]!, y: places[i + 1]!, half: places[i + 2]! })
        strokes.push(line)
      }
      const root = await keepInk(withStrokes(noInk, strokes))
      if (root === null && areas === 0) {
        tell('This step draws no line here, so there is nothing to take over.')
        return
      }
      const { layer } = locate(artwork.layers as Layer[], layerId)
      const use = layer.chain.find((s) => s.id === stepId)!
      const { title } = stepAt(use.step, use.version)
      const drawn = newLayer(`${title}, as ink`, { type: 'ink', blob: root, colour }, [], freshId())
      if (!laid) drawn.placement = structuredClone(layer.placement) as Layer['placement']
      const paper = use.params['paper']
      const still = layer.placement.matrix.every((v, i) => v === identityPlacement.matrix[i])
      const under = typeof paper === 'string' && still ? [newLayer('Paper', { type: 'fill', colour: paper, alpha: 1 }, [], freshId())] : []
      // what is filled is a fill of its own under the lines, through a mask of the same shapes
      const blacks =
        areas > 0 ? { ...newLayer('Blacks', { type: 'fill', colour, alpha: 1 }, [], freshId()), mask: newMask('empty'), placement: drawn.placement } : null
      const group = newLayer(drawn.name, { type: 'group', isolated: true, layers: [...under, ...(blacks ? [blacks] : []), drawn] }, [], freshId())
      const gesture = `take-over-${group.id}`
      act(command({ command: { type: 'add-layer', layer: group, ...placeAbove(artwork.layers as Layer[], layerId) }, gesture }))
      if (blacks) {
        const at = { layer: blacks.id, step: null, part: 'mask' as const }
        engine.setArtwork(store.getState().bench.history!.artwork as Artwork)
        const { plane, parts } = await engine.planeFrom(at, { type: 'blacks', layer: layerId, step: stepId })
        void sendParts(parts).catch(() => undefined)
        act(command({ command: { type: 'paint', at, plane, what: 'Blacks taken over' }, gesture }))
      }
      act(command({ command: { type: 'set-layer', layer: layerId, visible: false }, gesture }))
      act(takeInk(drawn.id))
    } catch (error) {
      tellTrouble((error as Error).message)
    }
  }
}
