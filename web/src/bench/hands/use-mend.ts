import {
  allLayers,
  freshId,
  groundOf,
  inverse,
  locate,
  mapped,
  mendedIn,
  toSheet,
  type Artwork,
  type Layer,
  type Mended,
  type PlaneAddress,
  type Region,
} from '@nimble-quill/core'
import { useStore } from 'react-redux'
import { tell, tellTrouble } from '../../parts/tell.tsx'
import { useAct, type RootState } from '../../store/store.ts'
import { useEngine } from '../engine-context.ts'
import { command } from '../slice.ts'
import { setMend } from './slice.ts'

type Point = { x: number; y: number }
const WORDS: Record<Mended['way'], string> = { clone: 'Clone', heal: 'Heal', spot: 'Mend a spot' }

/** How far it is from one place of the sheet to another, whole pixels of a layer; null where there is no way. */
function between(artwork: Artwork, layer: Layer, from: Point, to: Point): { dx: number; dy: number } | null {
  const back = inverse(toSheet(artwork, layer))
  const [p, q] = back ? [mapped(back, from), mapped(back, to)] : [null, null]
  return p && q && { dx: Math.round(q.x - p.x), dy: Math.round(q.y - p.y) }
}

const within = ({ x, y, w, h }: Region, p: Point): boolean => p.x >= x && p.y >= y && p.x < x + w && p.y < y + h

/** A place that is about to be mended: where its cover is painted, and how it is called. */
export interface Mending {
  at: PlaneAddress
  way: Mended['way']
  what: string
  /** All that one stroke does is one entry of the history. */
  gesture: string
}

/** What the hand *Mend* does. */
export function useMend() {
  const act = useAct()
  const engine = useEngine()
  const store = useStore<RootState>()
  const now = () => store.getState().bench.history?.artwork as Artwork | undefined
  const put = (layer: string, mended: Mended[], what: string, gesture: string) =>
    act(command({ command: { type: 'set-mended', layer, mended, what }, gesture }))

  /** Makes the place that a stroke begins, or takes the last one further; null (told) where it has no source. @param from sheet pixels */
  const begin = (from: Point): Mending | null => {
    const artwork = now()
    const { mend } = store.getState().hands
    if (!artwork || !mend.layer) return null
    const { layer } = locate(artwork.layers as Layer[], mend.layer)
    const what = WORDS[mend.way]
    const gesture = `mend-${freshId()}`
    // what a stroke that was given up left is nothing
    const all = mendedIn(layer).filter((m) => m.cover)
    let offset = { dx: 0, dy: 0 }
    if (mend.way !== 'spot') {
      if (!mend.source) {
        tell('Where to take from? Hold C and click there first.')
        return null
      }
      const found = (mend.travels && mend.offset) || between(artwork, layer, from, mend.source)
      if (!found || (found.dx === 0 && found.dy === 0)) {
        tell('The source is the place itself. Hold C and click somewhere else.')
        return null
      }
      offset = found
      // where the hand would take from, as far as it is known at the first touch
      const at = mend.travels && mend.offset ? { x: from.x + offset.dx, y: from.y + offset.dy } : mend.source
      if (!within(groundOf(artwork), at)) {
        tell('The source lies beside the picture there, so nothing would be laid. Hold C and click a place in the picture.')
        return null
      }
      if (mend.travels && !mend.offset) act(setMend({ offset }))
    }
    const last = all.at(-1)
    // strokes from one source go on in one place
    if (mend.way === 'clone' && last?.way === 'clone' && last.dx === offset.dx && last.dy === offset.dy)
      return { at: { layer: layer.id, step: last.id, part: 'mend' }, way: mend.way, what, gesture }
    const id = freshId()
    try {
      put(layer.id, [...all, { id, way: mend.way, ...offset, cover: null }], what, gesture)
    } catch (error) {
      tellTrouble((error as Error).message)
      return null
    }
    if (!mendedIn(locate(now()!.layers as Layer[], layer.id).layer).some((m) => m.id === id)) return null
    return { at: { layer: layer.id, step: id, part: 'mend' }, way: mend.way, what, gesture }
  }

  /** Says where to take from. @param at sheet pixels */
  const takeFrom = (at: Point): void => {
    const artwork = now()
    if (!artwork) return
    if (within(groundOf(artwork), at)) act(setMend({ source: at, offset: null }))
    else tell('There is nothing to take from beside the picture. The source is left as it was.')
  }

  /** Lets a spot find its source, after those that were tried. */
  const findSource = async ({ layer: id, step }: PlaneAddress, tried: readonly { dx: number; dy: number }[], gesture: string): Promise<void> => {
    const artwork = now()
    const opened = store.getState().bench.id
    if (!artwork || !step) return
    try {
      engine.setArtwork(artwork)
      const { dx, dy } = await engine.mendSource({ layer: id, step, part: 'mend' }, tried)
      const after = now()
      // another artwork may be open by then, or the layer gone
      const layer = after && store.getState().bench.id === opened ? [...allLayers(after.layers as Layer[])].find((l) => l.id === id) : null
      if (!layer || !mendedIn(layer).some((m) => m.id === step)) return
      put(
        id,
        mendedIn(layer).map((m) => (m.id === step ? { ...m, dx, dy } : m)),
        tried.length ? 'Another source for the spot' : WORDS.spot,
        gesture,
      )
      act(setMend({ last: { place: step, tried: [...tried, { dx, dy }], turn: gesture } }))
    } catch (error) {
      tellTrouble((error as Error).message)
    }
  }
  /** Spots that a closed tab left without their source look for it once more. */
  const findLeft = async (): Promise<void> => {
    for (const layer of allLayers((now()?.layers ?? []) as Layer[]))
      for (const m of mendedIn(layer))
        if (m.way === 'spot' && m.cover && m.dx === 0 && m.dy === 0) await findSource({ layer: layer.id, step: m.id, part: 'mend' }, [], `mend-${freshId()}`)
  }
  return { begin, takeFrom, findSource, findLeft, put }
}
