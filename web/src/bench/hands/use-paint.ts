import { planeAt, type Artwork, type PaintView, type StrokeOrder } from '@nimble-quill/core'
import { useCallback, useEffect, useRef, useState, type PointerEvent } from 'react'
import { useStore } from 'react-redux'
import { EngineLost, type EngineClient, type Painted, type Stroke } from '../../engine/client.ts'
import { tellTrouble } from '../../parts/tell.tsx'
import { useAct, useApp, type RootState } from '../../store/store.ts'
import { StrokeJournal } from '../keeping/journal.ts'
import { askToStay, sendParts } from '../keeping/parts.ts'
import { command } from '../slice.ts'
import { layingOf, wordOf } from './laying.ts'
import { breadthIn, samplesFrom, type PenEvent } from './pen.ts'
import { shownAt, withMaskShown } from './showing.ts'
import { takeColour } from './slice.ts'
import { useMend, type Mending } from './use-mend.ts'
import { isThere } from './targets.ts'

interface Options {
  engine: EngineClient
  /** What the picture shows. */
  view: PaintView
  /** Whether that is what is painted on: not while something is held, tried or peeked at. */
  free: boolean
  /** Where an event is, artwork pixels. */
  place: (e: { clientX: number; clientY: number }) => { x: number; y: number }
  /** Pixels that changed under the brush. */
  onTile: (m: { level: number; region: { x: number; y: number; w: number; h: number }; pixels: ArrayBuffer }) => void
  /** The picture goes on from what was painted; false: what is shown is to be asked for anew. */
  onPainted: (kept: boolean) => void
  tab: string
}

interface Running {
  pointer: number
  begun: number
  waiting: number[]
  /** All samples so far. */
  all: number[]
  again: boolean
  stroke: Stroke | null
  journal: StrokeJournal | null
  lifted: boolean
  given: boolean
  /** Where it began, sheet pixels, and the place that it mends. */
  first: { x: number; y: number }
  mending: Mending | null
  /** A straight line: its ends only. */
  line: number[] | null
}

/** How long a stroke stays in the journal once it is in the artwork, milliseconds. */
const JOURNAL_STAYS = 300

/** How long after the pen was last seen touches are the palm's, milliseconds. */
const PEN_NEAR = 1500

/** Strokes by the pointer, one after the other, each into the artwork when it ends. */
export function usePaint({ engine, view, free, place, onTile, onPainted, tab }: Options) {
  const act = useAct()
  const store = useStore<RootState>()
  const id = useApp((s) => s.bench.id)
  const held = useApp((s) => s.hands.held)
  const mendOn = useApp((s) => s.hands.mend.layer)
  const mend = useMend()
  const on = useApp((s) => s.hands.on)
  const lent = useApp((s) => s.hands.lent)
  const showing = useApp((s) => s.hands.showing)
  const running = useRef<Running | null>(null)
  const last = useRef<Promise<void>>(Promise.resolve())
  const penSeen = useRef(-Infinity)
  const now = useRef({ view, place, onTile, onPainted })
  now.current = { view, place, onTile, onPainted }
  const [line, setLine] = useState<{ from: { x: number; y: number }; to: { x: number; y: number } } | null>(null)
  const [ready, setReady] = useState(false)
  // a spot shows what it will mend: where its source is is found afterwards
  const [trail, setTrail] = useState<{ x: number; y: number }[] | null>(null)
  const trailing = useApp((s) => s.hands.held === 'mend' && s.hands.mend.way === 'spot')
  const mending = held === 'mend' && mendOn !== null
  const active = ((held === 'paint' && on !== null) || mending) && free

  // what lies under the brush is computed before it comes down
  const key = JSON.stringify([view, on, showing])
  const readyFor = useRef('')
  const prepare = useCallback(
    (artwork: Artwork) => {
      // a place that is mended is made by the stroke itself
      if (!active || mending || !on || !isThere(artwork, on)) return
      if (readyFor.current === key) return
      readyFor.current = key
      setReady(false)
      engine.ready(on, shownAt, now.current.view, () => setReady(true))
    },
    // eslint-disable-next-line react-hooks/exhaustive-deps
    [engine, active, mending, key],
  )
  useEffect(() => {
    if (!active) {
      readyFor.current = ''
      setReady(false)
    }
  }, [active])

  const begin = async (run: Running): Promise<void> => {
    const { hands } = store.getState()
    if (run.given) return
    if (hands.held === 'mend') run.mending ??= mend.begin({ x: run.first.x, y: run.first.y })
    const on = hands.held === 'mend' ? (run.mending?.at ?? null) : hands.on
    const artwork = store.getState().bench.history?.artwork
    if (!artwork || !on || !isThere(artwork, on)) return
    const order: StrokeOrder = {
      at: on,
      also: shownAt,
      brush: { ...hands.brush, breadth: breadthIn(hands.brush.breadth, artwork.sheet.ppi) },
      symmetry: hands.symmetry,
      laying: run.mending ? { type: 'grey', value: 65535 } : layingOf(hands),
      ...(artwork.area ? { area: artwork.area.index } : {}),
    }
    run.journal ??= new StrokeJournal(id!, tab, { order, base: planeAt(artwork, on)?.plane?.index ?? null, at: Date.now() })
    engine.setArtwork(run.mending ? artwork : withMaskShown(artwork, on, hands.showing))
    const stroke = engine.stroke(order, now.current.view, (m) => now.current.onTile(m))
    run.stroke = stroke
    if (run.waiting.length) {
      if (!run.again) run.journal.add(run.waiting)
      stroke.add(run.waiting)
      run.waiting = []
    }
    if (run.lifted) stroke.end()
    try {
      const painted: Painted = await stroke.done
      if (run.given) return
      const what = run.mending?.what ?? wordOf(order.at.part, hands.doing)
      // beside the sheet there is nothing to paint on: nothing was done
      if (painted.damage.w > 0) {
        now.current.onPainted(true)
        act(command({ command: { type: 'paint', at: order.at, plane: painted.plane, what }, ...(run.mending ? { gesture: run.mending.gesture } : {}) }))
        if (run.mending?.way === 'spot') void mend.findSource(order.at, [], run.mending.gesture)
        askToStay()
        // on the way before the artwork is; what does not arrive is sent when the server asks for it
        void sendParts(painted.parts).catch(() => undefined)
      }
    } catch (error) {
      if (error instanceof EngineLost && !run.again && !run.given) {
        // the next engine paints it from its beginning
        run.again = true
        run.stroke = null
        run.waiting = [...run.all]
        return begin(run)
      }
      if (!run.given) tellTrouble((error as Error).message)
      now.current.onPainted(false)
    }
    // not before the change is in the outbox; painted twice it cannot be, since the plane is another by then
    const { journal } = run
    setTimeout(() => journal.done(), JOURNAL_STAYS)
  }

  const add = (run: Running, events: readonly PenEvent[]) => {
    const samples = samplesFrom(events, now.current.place, run.begun)
    if (run.line) {
      run.line = [...run.line.slice(0, 6), ...samples.slice(-6)]
      const at = (i: number) => ({ x: run.line![i]! / 64, y: run.line![i + 1]! / 64 })
      setLine({ from: at(0), to: at(run.line.length - 6) })
      return
    }
    run.all.push(...samples)
    if (trailing) setTrail(trailOf(run.all))
    if (run.stroke) {
      run.journal?.add(samples)
      run.stroke.add(samples)
    } else run.waiting.push(...samples)
  }

  const pick = async (e: PointerEvent) => {
    const { x, y } = now.current.place(e)
    const { hands } = store.getState()
    const target = hands.dropper.of === 'layer' && hands.on ? ({ type: 'chain', layer: hands.on.layer, steps: 10_000 } as const) : now.current.view.target
    try {
      const { pixels } = await engine.sample(target, x, y, hands.dropper.side, new AbortController().signal)
      const [r, g, b, a] = new Uint8Array(pixels)
      if (a) act(takeColour(`#${[r!, g!, b!].map((v) => v.toString(16).padStart(2, '0')).join('')}`))
    } catch {
      // nothing to pick there
    }
  }

  /** Whether a touch is the palm's, which rests while the pen is near. */
  const palm = (e: Event): boolean => active && (e as globalThis.PointerEvent).pointerType === 'touch' && e.timeStamp - penSeen.current < PEN_NEAR

  /** @returns whether the pointer belongs to the brush */
  const down = (e: PointerEvent): boolean => {
    if (e.pointerType === 'pen') penSeen.current = e.timeStamp
    if (!active || lent === 'pan') return false
    if (palm(e.nativeEvent)) return true
    if (e.pointerType === 'mouse' && e.button !== 0) return false
    if (running.current) {
      // a second finger moves the view: what the first began is given up
      if (e.pointerType === 'touch') give()
      return e.pointerType !== 'touch'
    }
    if (lent === 'dropper' && mending) {
      mend.takeFrom(now.current.place(e))
      return true
    }
    if (lent === 'dropper') {
      void pick(e)
      return true
    }
    e.currentTarget.setPointerCapture(e.pointerId)
    const run: Running = {
      pointer: e.pointerId,
      begun: e.timeStamp,
      waiting: [],
      all: [],
      again: false,
      stroke: null,
      journal: null,
      lifted: false,
      given: false,
      line: lent === 'line' ? [] : null,
      first: now.current.place(e),
      mending: null,
    }
    running.current = run
    add(run, [e.nativeEvent])
    if (!run.line) last.current = last.current.then(() => begin(run))
    return true
  }

  const move = (e: PointerEvent): boolean => {
    if (e.pointerType === 'pen') penSeen.current = e.timeStamp
    const run = running.current
    if (!run || run.pointer !== e.pointerId) return false
    const events = e.nativeEvent.getCoalescedEvents?.() ?? []
    add(run, events.length ? events : [e.nativeEvent])
    return true
  }

  const up = (e: PointerEvent): boolean => {
    const run = running.current
    if (!run || run.pointer !== e.pointerId) return false
    running.current = null
    setTrail(null)
    run.lifted = true
    if (run.line) {
      setLine(null)
      run.waiting = run.line
      run.all = [...run.line]
      run.line = null
      last.current = last.current.then(() => begin(run))
      return true
    }
    run.journal?.flush()
    run.stroke?.end()
    return true
  }

  /** Gives the running stroke up. */
  const give = () => {
    const run = running.current
    if (!run) return
    running.current = null
    run.given = true
    setLine(null)
    setTrail(null)
    run.stroke?.cancel()
    run.journal?.done()
    onPainted(false)
  }

  return { active, down, move, up, give, palm, line, trail, prepare, ready }
}

/** Places of samples, sheet pixels. */
const trailOf = (all: readonly number[]) => Array.from({ length: all.length / 6 }, (_, i) => ({ x: all[i * 6]! / 64, y: all[i * 6 + 1]! / 64 }))
