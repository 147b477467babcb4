import {
  boxOfStroke,
  changedStrokes,
  depthAt,
  strokeAt,
  strokeCount,
  strokesOf,
  strokesWithin,
  withoutStrokes,
  withStrokes,
  type Artwork,
  type InkPlace,
  type InkStroke,
  type Region,
} from '@nimble-quill/core'
import { useEffect, useMemo, useRef, useState, type KeyboardEvent, type PointerEvent } from 'react'
import { useAct, useApp } from '../../store/store.ts'
import { bent, densified, grips, inkStroke, thinned, type Drawn } from '../hands/ink-stroke.ts'
import { breadthIn } from '../hands/pen.ts'
import { setInk } from '../hands/slice.ts'
import { useInkLayer } from '../hands/use-ink.ts'
import { arrow, type Ground } from './ground.ts'
import { NUDGE } from './PlaceHandle.tsx'
import pictureCss from './picture.module.css'

type Point = { x: number; y: number }
interface Running {
  pointer: number
  does: 'draw' | 'erase' | 'move' | 'bend' | 'gather'
  drawn: Drawn[]
  pressed: boolean
  from: Point
  /** Strokes that stay chosen beside those that a rectangle meets. */
  also?: number[]
  /** The grip that a stroke is bent by. */
  grip: number
}

/** How near to a stroke a pointer finds it, CSS pixels. */
const NEAR = 6
let gestures = 0

/** Where ink is drawn, chosen, moved, bent and rubbed out, over the picture. */
export function InkSurface({ artwork, layer: id, ground }: { artwork: Artwork; layer: string; ground: Ground }) {
  const act = useAct()
  const pen = useApp((s) => s.hands.ink)
  const lent = useApp((s) => s.hands.lent)
  const { layer, ink, space, change } = useInkLayer(artwork, id)
  const colour = layer.source.type === 'ink' ? layer.source.colour : '#000000'
  const running = useRef<Running | null>(null)
  const [live, setLive] = useState<InkPlace[] | null>(null)
  const [gone, setGone] = useState<ReadonlySet<number>>(new Set())
  const [band, setBand] = useState<Region | null>(null)
  const [shift, setShift] = useState<{ dx: number; dy: number } | null>(null)
  const surface = useRef<HTMLDivElement>(null)
  const chosen = useMemo(() => {
    const ids = new Set(pen.chosen)
    return ink && ids.size ? [...strokesOf(ink)].filter((s) => ids.has(s.id)) : []
  }, [ink, pen.chosen])
  const one = useMemo(() => (chosen.length === 1 ? { id: chosen[0]!.id, places: densified(chosen[0]!.places) } : null), [chosen])
  const near = NEAR / ground.scale / space.grows
  useEffect(() => surface.current?.focus({ preventScroll: true }), [id])

  const pens = {
    breadth: breadthIn(pen.breadth, artwork.sheet.ppi),
    pressure: pen.pressure,
    taper: pen.taper,
    steadiness: pen.steadiness,
  }
  const deep = (p: Point) => (pen.depth ? depthAt(pen.depth, artwork.sheet, p) : 1)
  const screen = (p: Point): Point | null => {
    const at = space.onSheet(p)
    return at && { x: ground.x + at.x * ground.scale, y: ground.y + at.y * ground.scale }
  }
  const inkAt = (e: { clientX: number; clientY: number }) => space.onInk(ground.under(e))

  const erase = (e: { clientX: number; clientY: number }) => {
    const at = inkAt(e)
    const found = ink && at && strokeAt(ink, at.x, at.y, near, gone)
    if (found) setGone((g) => new Set([...g, found.id]))
  }

  const down = (e: PointerEvent) => {
    if (lent === 'pan' || !ink || (e.pointerType === 'mouse' && e.button !== 0) || running.current) return
    e.stopPropagation()
    surface.current?.focus({ preventScroll: true })
    const at = inkAt(e)
    if (!at) return
    e.currentTarget.setPointerCapture(e.pointerId)
    const run: Running = { pointer: e.pointerId, does: 'draw', drawn: [], pressed: e.pointerType === 'pen', from: at, grip: -1 }
    running.current = run
    if (pen.does === 'draw') return add(run, [e.nativeEvent])
    if (pen.does === 'erase') {
      run.does = 'erase'
      return erase(e)
    }
    const grip = Number((e.target as HTMLElement).dataset['grip'] ?? -1)
    if (grip >= 0 && one) {
      run.does = 'bend'
      run.grip = grip
      return
    }
    const found = strokeAt(ink, at.x, at.y, near)
    run.does = 'move'
    // from where nothing lies a rectangle is drawn, which chooses all that it meets
    if (!found) {
      run.does = 'gather'
      run.also = e.shiftKey ? pen.chosen : []
      act(setInk({ chosen: run.also }))
    } else if (e.shiftKey) act(setInk({ chosen: pen.chosen.includes(found.id) ? pen.chosen.filter((c) => c !== found.id) : [...pen.chosen, found.id] }))
    else if (!pen.chosen.includes(found.id)) act(setInk({ chosen: [found.id] }))
  }

  const add = (run: Running, events: readonly { clientX: number; clientY: number; pressure: number }[]) => {
    for (const e of events) run.drawn.push({ ...ground.under(e), p: e.pressure || 0.5 })
    setLive(inkStroke(run.drawn, pens, run.pressed).map((p) => ({ ...p, half: p.half * deep(p) })))
  }

  const move = (e: PointerEvent) => {
    const run = running.current
    if (run?.pointer !== e.pointerId) return
    e.stopPropagation()
    const events = e.nativeEvent.getCoalescedEvents?.() ?? []
    if (run.does === 'draw') add(run, events.length ? events : [e.nativeEvent])
    else if (run.does === 'erase') for (const p of events.length ? events : [e.nativeEvent]) erase(p)
    else if (run.does === 'gather') {
      const to = inkAt(e)
      if (to) setBand({ x: Math.min(run.from.x, to.x), y: Math.min(run.from.y, to.y), w: Math.abs(to.x - run.from.x), h: Math.abs(to.y - run.from.y) })
    } else {
      const at = inkAt(e)
      if (at) setShift({ dx: at.x - run.from.x, dy: at.y - run.from.y })
    }
  }

  const up = (e: PointerEvent) => {
    const run = running.current
    if (run?.pointer !== e.pointerId) return
    e.stopPropagation()
    running.current = null
    const given = e.type === 'pointercancel'
    const by = shift
    const rubbed = gone
    const settle = () => {
      setLive(null)
      setGone(new Set())
      setShift(null)
      setBand(null)
    }
    if (given) return settle()
    if (run.does === 'gather') {
      if (band && ink) act(setInk({ chosen: [...new Set([...(run.also ?? []), ...strokesWithin(ink, band).map((s) => s.id)])] }))
      return settle()
    }
    if (run.does === 'draw') {
      const places = inkStroke(run.drawn, pens, run.pressed).flatMap((p): InkPlace[] => {
        const at = space.onInk(p)
        return at ? [{ ...at, half: (p.half * deep(p)) / space.grows }] : []
      })
      void change('Pen stroke', (from) => (places.length ? withStrokes(from, [places]) : from)).then(settle)
    } else if (run.does === 'erase')
      void change(rubbed.size > 1 ? 'Rub out strokes' : 'Rub out a stroke', (from) => (rubbed.size ? withoutStrokes(from, rubbed) : from)).then(settle)
    else if (by && run.does === 'bend' && one) {
      const at = run.grip
      void change('Bend a stroke', (from) => changedStrokes(from, new Set([one.id]), () => thinned(bentBy(one, at, by)))).then(settle)
    } else if (by) void change('Move ink', (from) => moved(from, pen.chosen, by)).then(settle)
    else settle()
  }

  /** From one stroke to the next by keys. */
  const stepBy = (by: 1 | -1) => {
    const ids = ink ? [...strokesOf(ink)].map((s) => s.id) : []
    if (ids.length === 0) return
    const at = ids.indexOf(pen.chosen.at(-1) ?? -1)
    act(setInk({ does: 'choose', chosen: [ids[(at + by + ids.length) % ids.length]!] }))
  }
  const keys = (e: KeyboardEvent) => {
    if (e.key === 'PageDown' || e.key === 'PageUp') {
      stepBy(e.key === 'PageDown' ? 1 : -1)
      e.preventDefault()
      e.stopPropagation()
      return
    }
    if (pen.chosen.length === 0) return
    const by = arrow(e.key)
    if (by) {
      const step = (e.shiftKey ? NUDGE.large : NUDGE.fine) / space.grows
      void change('Move ink', (from) => moved(from, pen.chosen, { dx: by.x * step, dy: by.y * step }), `ink-keys-${gestures}`)
    } else if (e.key === 'Delete' || e.key === 'Backspace') {
      const ids = new Set(pen.chosen)
      act(setInk({ chosen: [] }))
      void change(ids.size > 1 ? 'Take out strokes' : 'Take out a stroke', (from) => withoutStrokes(from, ids))
    } else return
    e.preventDefault()
    e.stopPropagation()
  }

  const shownAs = (s: InkStroke): readonly InkPlace[] => {
    if (!shift) return s.places
    return running.current?.does === 'bend' && one
      ? bentBy(one, running.current.grip, shift)
      : s.places.map((p) => ({ ...p, x: p.x + shift.dx, y: p.y + shift.dy }))
  }
  const way = (places: readonly Point[], at: (p: Point) => Point | null) =>
    places
      .flatMap((p) => {
        const q = at(p)
        return q ? [`${q.x.toFixed(1)},${q.y.toFixed(1)}`] : []
      })
      .join(' ')
  const rubbed = useMemo(() => (ink && gone.size ? [...strokesOf(ink)].filter((s) => gone.has(s.id)) : []), [ink, gone])
  const drawnAt = (p: Point) => ({ x: ground.x + p.x * ground.scale, y: ground.y + p.y * ground.scale })
  return (
    <div
      ref={surface}
      className={pictureCss.ink}
      data-part="ink"
      data-does={pen.does}
      data-strokes={ink ? strokeCount(ink) : undefined}
      style={lent === 'pan' ? { pointerEvents: 'none' } : undefined}
      tabIndex={0}
      role="application"
      aria-label={`Ink on ${layer.name}: draw here; Page Down chooses the next stroke; chosen strokes are moved with the arrow keys and taken out with Delete`}
      onPointerDown={down}
      onPointerMove={move}
      onPointerUp={up}
      onPointerCancel={up}
      onKeyDown={keys}
      onKeyUp={() => gestures++}
    >
      <svg aria-hidden>
        {live && (
          <g fill={colour} stroke={colour}>
            {live.slice(1).map((p, i) => {
              const [a, b] = [drawnAt(live[i]!), drawnAt(p)]
              return (
                <line key={i} x1={a.x} y1={a.y} x2={b.x} y2={b.y} strokeLinecap="round" strokeWidth={Math.max(0.4, (live[i]!.half + p.half) * ground.scale)} />
              )
            })}
          </g>
        )}
        {rubbed.map((s) => (
          <polyline key={s.id} points={way(s.places, screen)} className={pictureCss.rubbed} strokeWidth={widthOf(s) * space.grows * ground.scale + 2} />
        ))}
        {band && (
          <polygon
            points={way([band, { x: band.x + band.w, y: band.y }, { x: band.x + band.w, y: band.y + band.h }, { x: band.x, y: band.y + band.h }], screen)}
            className={pictureCss.band}
          />
        )}
        {chosen.map((s) => (
          <polyline key={s.id} points={way(shownAs(s), screen)} className={pictureCss.chosen} />
        ))}
      </svg>
      {pen.does === 'choose' &&
        one &&
        grips(one.places).map((at) => {
          const p = screen(shownAs(one)[at]!)
          return p && <i key={at} data-grip={at} className={pictureCss.grip} style={{ left: p.x, top: p.y }} />
        })}
    </div>
  )
}

const moved = (ink: Parameters<typeof changedStrokes>[0], ids: readonly number[], { dx, dy }: { dx: number; dy: number }) =>
  changedStrokes(ink, new Set(ids), ({ places }) => places.map((p) => ({ ...p, x: p.x + dx, y: p.y + dy })))

/** A stroke bent by one of its grips, as far as the next ones. */
function bentBy({ places }: InkStroke, at: number, { dx, dy }: { dx: number; dy: number }): InkPlace[] {
  const all = grips(places)
  const i = all.indexOf(at)
  const reach = Math.max(at - (all[i - 1] ?? at), (all[i + 1] ?? at) - at, 1)
  return bent(places, at, reach, dx, dy)
}

/** About how broad a stroke is, its own pixels. */
const widthOf = (s: InkStroke): number => Math.min(2 * Math.max(...s.places.map((p) => p.half)), Math.max(boxOfStroke(s).w, boxOfStroke(s).h))
