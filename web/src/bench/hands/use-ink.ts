import { inverse, locate, mapped, times, toSheet, type Artwork, type Ink, type Layer, type Matrix } from '@nimble-quill/core'
import { useCallback, useMemo, useRef } from 'react'
import { tellTrouble } from '../../parts/tell.tsx'
import { useAct } from '../../store/store.ts'
import { command } from '../slice.ts'
import { keepInk, useInk } from './ink-blobs.ts'

type Point = { x: number; y: number }

/** The ink of a layer, where it lies on the sheet, and the way to change it: one entry of the history each. */
export function useInkLayer(artwork: Artwork, id: string) {
  const act = useAct()
  const { layer } = locate(artwork.layers as Layer[], id)
  const { source } = layer
  const blob = source.type === 'ink' ? source.blob : null
  const scale = source.type === 'ink' ? (source.scale ?? 1) : 1
  const ink = useInk(blob)
  const space = useMemo(() => {
    const way = times(toSheet(artwork, layer), [scale, 0, 0, 0, scale, 0, 0, 0, 1] as Matrix)
    const back = inverse(way)
    return {
      /** From the ink's own pixels to the sheet's, and back; null where there is no way. */
      onSheet: (p: Point) => mapped(way, p),
      onInk: (p: Point) => (back ? mapped(back, p) : null),
      /** Sheet pixels that one of the ink's is, about. */
      grows: Math.sqrt(Math.abs(way[0] * way[4] - way[1] * way[3])) || 1,
    }
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [JSON.stringify([layer.placement.matrix, scale]), artwork.layers])

  // changes one after the other, each upon what the last one left
  const last = useRef<Promise<unknown>>(Promise.resolve())
  const now = useRef<Ink | null>(ink)
  now.current = ink
  const change = useCallback(
    (what: string, make: (ink: Ink) => Ink, gesture?: string): Promise<void> => {
      const next = last.current.then(async () => {
        const from = now.current
        if (!from) return
        try {
          const made = make(from)
          if (made === from) return
          const root = await keepInk(made)
          now.current = made
          act(command({ command: { type: 'set-ink', layer: id, blob: root, what }, ...(gesture ? { gesture } : {}) }))
        } catch (error) {
          tellTrouble((error as Error).message)
        }
      })
      last.current = next
      return next
    },
    [act, id],
  )
  return { layer, ink, space, change }
}
