import { AREA, type AreaFrom, type AreaHow, type AreaOrder, type Artwork, type PlaneRef } from '@nimble-quill/core'
import { useStore } from 'react-redux'
import { tellTrouble, tellWorking } from '../../parts/tell.tsx'
import { useAct, type RootState } from '../../store/store.ts'
import { useEngine } from '../engine-context.ts'
import { sendParts } from '../keeping/parts.ts'
import { command } from '../slice.ts'
import { setArea } from './slice.ts'

/** How taking is called in the history, by what is taken and how it goes with what was there. */
const HOWS: Record<AreaHow, string> = { instead: '', add: ', added', away: ', taken away', share: ', what both share' }
/** After so long taking an area is told of, with a way to stop it, milliseconds. */
const TOLD_AFTER = 600

/** One order is carried out at a time; of those that wait only the newest is wanted. */
let running = false
let waiting: (() => Promise<void>) | null = null
let turns = 0

/** Changes the area that hands act in: one entry of the history each. */
export function useArea() {
  const act = useAct()
  const engine = useEngine()
  const store = useStore<RootState>()

  const carryOut = async (order: AreaOrder, what: string, gesture?: string): Promise<PlaneRef | null> => {
    const { id, history } = store.getState().bench
    const artwork = history?.artwork
    if (!artwork) return null
    const stopper = new AbortController()
    let done: (() => void) | null = null
    const telling = setTimeout(() => (done = tellWorking('Looking through the whole picture', () => stopper.abort())), TOLD_AFTER)
    try {
      engine.setArtwork(artwork as Artwork)
      const { plane, parts } = await engine.area(order, stopper.signal)
      void sendParts(parts).catch(() => undefined)
      const now = store.getState().bench
      // another artwork may be open by then; in the same one what was changed meanwhile stays
      if (now.id !== id || !now.history) return null
      act(command({ command: { type: 'paint', at: AREA, plane, what }, ...(gesture ? { gesture } : {}) }))
      return plane
    } catch (error) {
      if ((error as Error).name !== 'AbortError') tellTrouble((error as Error).message)
      return null
    } finally {
      clearTimeout(telling)
      ;(done as (() => void) | null)?.()
    }
  }
  const queued = async (run: () => Promise<void>): Promise<void> => {
    if (running) {
      waiting = run
      return
    }
    running = true
    for (let next: typeof waiting = run; next; next = waiting) {
      waiting = null
      await next()
    }
    running = false
  }
  const order = (o: AreaOrder, what: string, gesture?: string): Promise<void> =>
    queued(async () => {
      act(setArea({ last: null }))
      await carryOut(o, what, gesture)
    })

  /** What is like a place; taken anew (`again`) where only the bound is another. */
  const alike = (at: { x: number; y: number }, again = false): Promise<void> =>
    queued(async () => {
      const { hands, bench } = store.getState()
      const now = bench.history?.artwork.area?.index ?? null
      const { last, like, how } = hands.area
      const same = again && last && last.left === now
      if (again && !same) return
      const base = same ? last : { x: at.x, y: at.y, how, upon: now, left: null, turn: ++turns }
      const from: AreaFrom = { type: 'alike', x: base.x, y: base.y, by: like.by, within: like[like.by], together: like.together, edges: like.edges }
      const what = `Area by ${like.by}${HOWS[base.how]}`
      const plane = await carryOut({ type: 'take', how: base.how, from, upon: base.upon }, what, `area-alike-${base.turn}`)
      act(setArea({ last: plane ? { ...base, left: plane.index } : null }))
    })

  return {
    take: (from: Exclude<AreaFrom, { type: 'alike' }>, name: string) => {
      const { how } = store.getState().hands.area
      return order({ type: 'take', how, from }, `${name}${HOWS[how]}`)
    },
    alike,
    order,
    letGo: () => {
      act(setArea({ last: null }))
      act(command({ command: { type: 'paint', at: AREA, plane: null, what: 'Let the area go' } }))
    },
  }
}
