import {
  cornersOf,
  cornerTo,
  FOLDS,
  inverse,
  mapped,
  movedBy,
  scaledTo,
  snapped,
  times,
  turnedBy,
  turnedTo,
  type Artwork,
  type Line,
  type Matrix,
  type Point,
  type Snapped,
} from '@nimble-quill/core'
import { useRef, useState, type KeyboardEvent } from 'react'
import { tell } from '../../parts/tell.tsx'
import { useHandle, type Held } from '../../parts/use-handle.ts'
import { useAct, useApp } from '../../store/store.ts'
import { inList, linesFor, onSheet, usePlacing, type Placing } from '../hands/use-placing.ts'
import { command } from '../slice.ts'
import { arrow, type Ground } from './ground.ts'
import pictureCss from './picture.module.css'

/** How near a line draws what is dragged, CSS pixels. */
const DRAWN = 7
/** Radius of the ring that turns, CSS pixels. */
const RING = 58
/** Degrees that turning goes in while Shift is held. */
const STEP = 15
const CORNERS = ['Upper left corner', 'Upper right corner', 'Lower right corner', 'Lower left corner'] as const
const SIDES = ['Upper side', 'Right side', 'Lower side', 'Left side'] as const

type Grip = { type: 'all' } | { type: 'corner' | 'side'; i: number } | { type: 'ring' } | { type: 'pivot' }

/** Round what is placed: its outline, which moves it; corners and sides, which scale it, or corners by themselves; a ring about its pivot, which turns it. */
export function PlacementHandles({ artwork, ground }: { artwork: Artwork; ground: Ground }) {
  const act = useAct()
  const { placing, put } = usePlacing(artwork)
  const { grips, ratio, snaps } = useApp((s) => s.hands.place)
  const [met, setMet] = useState<Snapped['met']>([])
  // as it was when it was taken hold of: each move is counted from there
  const base = useRef<{ placing: Placing; lines: Line[]; told: boolean } | null>(null)
  const taken = () => {
    if (placing) base.current = { placing, lines: linesFor(artwork, new Set(placing.layers.map((l) => l.id))), told: false }
  }
  const left = () => {
    base.current = null
    setMet([])
  }

  /** What a grip that was dragged makes of it; null where that cannot be. */
  const dragged = (from: Placing, lines: readonly Line[], grip: Grip, held: Held): { matrix: Matrix | null; what: string; met: Snapped['met'] } => {
    const reach = snaps && !held.ctrlKey ? DRAWN / ground.scale : 0
    const [at, start] = [ground.under(held), ground.under(held.start)]
    const { matrix, own, box } = from
    if (grip.type === 'all') {
      let [dx, dy] = [at.x - start.x, at.y - start.y]
      if (held.shiftKey) {
        if (Math.abs(dx) > Math.abs(dy)) dy = 0
        else dx = 0
      }
      const own = { x: [box.x + dx, box.x + box.w / 2 + dx, box.x + box.w + dx], y: [box.y + dy, box.y + box.h / 2 + dy, box.y + box.h + dy] }
      const by = reach ? snapped(own, lines, reach) : NONE
      const [p, q] = [inList(from, start), inList(from, { x: start.x + dx + by.dx, y: start.y + dy + by.dy })]
      return { matrix: movedBy(matrix, q.x - p.x, q.y - p.y), what: 'Move', met: by.met }
    }
    if (grip.type === 'ring') {
      const pivot = mapped(matrix, from.pivot)!
      return { matrix: turnedTo(matrix, pivot, inList(from, start), inList(from, at), held.shiftKey ? STEP : 0), what: 'Turn', met: [] }
    }
    // the grip itself, not the hand, is drawn to a line
    const home = gripAt(from, grip)
    const to = { x: home.x + at.x - start.x, y: home.y + at.y - start.y }
    const by = reach ? snapped({ x: [to.x], y: [to.y] }, lines, reach) : NONE
    const aim = inList(from, { x: to.x + by.dx, y: to.y + by.dy })
    const corners = cornersOf(own)
    if (grip.type === 'corner') {
      if (grips === 'corners') return { matrix: cornerTo(matrix, own, grip.i, aim), what: 'Perspective of', met: by.met }
      const keeps = ratio !== held.shiftKey
      const next = scaledTo(matrix, corners[(grip.i + 2) % 4]!, corners[grip.i]!, aim, keeps ? 'ratio' : 'both')
      // with its ratio kept it is under no line both ways
      return { matrix: next, what: 'Scale', met: keeps ? [] : by.met }
    }
    const i = (grip as { i: number }).i
    const side = middle(corners[i]!, corners[(i + 1) % 4]!)
    const across = middle(corners[(i + 2) % 4]!, corners[(i + 3) % 4]!)
    return { matrix: scaledTo(matrix, across, side, aim, i % 2 ? 'x' : 'y'), what: 'Stretch', met: by.met.filter((m) => m.line.axis === (i % 2 ? 'x' : 'y')) }
  }

  const bind = useHandle<Grip>(
    (held, drag, grip) => {
      const from = base.current
      if (!from) return
      if (grip.type === 'pivot') {
        putPivot(from.placing, ground.under(held), drag)
        return
      }
      const { matrix, what, met: now } = dragged(from.placing, from.lines, grip, held)
      setMet(now)
      if (matrix) put(matrix, what, drag, from.placing)
      else if (!from.told && grip.type === 'corner' && grips === 'corners') {
        from.told = true
        tell(FOLDS)
      }
    },
    { onTaken: taken, onLeft: left },
  )
  const putPivot = (of: Placing, at: Point, gesture: string) => {
    const only = of.layers.length === 1 ? of.layers[0]! : null
    const own = only && mapped(inverse(times(of.within, of.matrix))!, at)
    if (!own) return
    const pivot = { x: Math.round(own.x * 4) / 4, y: Math.round(own.y * 4) / 4 }
    act(
      command({
        command: { type: 'place-layers', layers: [{ layer: only.id, matrix: of.matrix, pivot }], what: 'Move the pivot of' },
        gesture: `place.${gesture}`,
      }),
    )
  }

  if (!placing) return null
  const css = (p: Point) => ({ x: ground.x + p.x * ground.scale, y: ground.y + p.y * ground.scale })
  const { corners } = placing
  const centre = onSheet(placing, placing.pivot)
  const keys = (grip: Grip) => (e: KeyboardEvent) => {
    const by = arrow(e.key)
    if (!by || e.ctrlKey || e.metaKey || e.altKey) return
    e.stopPropagation()
    e.preventDefault()
    const far = e.shiftKey ? 10 : 1
    const { matrix, own } = placing
    const shifted = (p: Point): Point => inList(placing, { x: p.x + by.x * far, y: p.y + by.y * far })
    const gesture = `keys-${grip.type}${'i' in grip ? grip.i : ''}`
    if (grip.type === 'pivot') {
      if (centre) putPivot(placing, { x: centre.x + by.x * far, y: centre.y + by.y * far }, gesture)
      return
    }
    let next: Matrix | null = null
    if (grip.type === 'ring') next = turnedBy(matrix, mapped(matrix, placing.pivot)!, (by.x || by.y) * (e.shiftKey ? STEP : 1))
    else if (grip.type === 'all') {
      const [p, q] = [inList(placing, { x: 0, y: 0 }), inList(placing, { x: by.x * far, y: by.y * far })]
      next = movedBy(matrix, q.x - p.x, q.y - p.y)
    } else {
      const all = cornersOf(own)
      const to = shifted(gripAt(placing, grip))
      if (grip.type === 'corner')
        next = grips === 'corners' ? cornerTo(matrix, own, grip.i, to) : scaledTo(matrix, all[(grip.i + 2) % 4]!, all[grip.i]!, to, ratio ? 'ratio' : 'both')
      else
        next = scaledTo(
          matrix,
          middle(all[(grip.i + 2) % 4]!, all[(grip.i + 3) % 4]!),
          middle(all[grip.i]!, all[(grip.i + 1) % 4]!),
          to,
          grip.i % 2 ? 'x' : 'y',
        )
    }
    if (next) put(next, { all: 'Move', ring: 'Turn', corner: grips === 'corners' ? 'Perspective of' : 'Scale', side: 'Stretch' }[grip.type], gesture)
  }
  const at = corners?.map(css)
  const c = centre && css(centre)
  // the ring's knob points where the layer's own top does
  const top = corners && {
    x: (corners[0].x + corners[1].x) / 2 - (corners[2].x + corners[3].x) / 2,
    y: (corners[0].y + corners[1].y) / 2 - (corners[2].y + corners[3].y) / 2,
  }
  const long = top && Math.hypot(top.x, top.y)
  const knob = c && { x: c.x + (long ? (top.x / long) * RING : 0), y: c.y + (long ? (top.y / long) * RING : -RING) }
  return (
    <>
      <svg className={pictureCss.laid} aria-hidden>
        {met.map(({ line }, i) => {
          const p = css({ x: line.at, y: line.at })
          return line.axis === 'x' ? (
            <line key={i} className={pictureCss.met} x1={p.x} x2={p.x} y1={0} y2={ground.size.h} />
          ) : (
            <line key={i} className={pictureCss.met} y1={p.y} y2={p.y} x1={0} x2={ground.size.w} />
          )
        })}
        {at && (
          <g>
            <polygon className={pictureCss.dark} points={at.map((p) => `${p.x},${p.y}`).join(' ')} />
            <polygon className={pictureCss.light} points={at.map((p) => `${p.x},${p.y}`).join(' ')} />
          </g>
        )}
        {c && grips === 'box' && (
          <g>
            <circle className={pictureCss.dark} cx={c.x} cy={c.y} r={RING} />
            <circle className={pictureCss.light} cx={c.x} cy={c.y} r={RING} />
          </g>
        )}
      </svg>
      {at && (
        <button
          className={pictureCss.body}
          data-part="placed"
          aria-label={`${placing.name}; drag it, or move it with the arrow keys`}
          style={{
            left: 0,
            top: 0,
            width: ground.size.w,
            height: ground.size.h,
            clipPath: `polygon(${at.map((p) => `${p.x}px ${p.y}px`).join(', ')})`,
          }}
          {...bind({ type: 'all' })}
          onKeyDown={keys({ type: 'all' })}
        />
      )}
      {at &&
        grips === 'box' &&
        at.map((p, i) => {
          const q = at[(i + 1) % 4]!
          if (Math.hypot(p.x - q.x, p.y - q.y) < 70) return null
          return (
            <button
              key={SIDES[i]}
              className={pictureCss.rim}
              data-way={sideWay(p, q)}
              aria-label={`${SIDES[i]}; drag it to stretch, or use the arrow keys`}
              style={{ left: (p.x + q.x) / 2, top: (p.y + q.y) / 2 }}
              {...bind({ type: 'side', i })}
              onKeyDown={keys({ type: 'side', i })}
            />
          )
        })}
      {at?.map((p, i) => (
        <button
          key={CORNERS[i]}
          className={pictureCss.corner}
          data-free={grips === 'corners' || undefined}
          aria-label={`${CORNERS[i]}; drag it to ${grips === 'corners' ? 'change the perspective' : 'scale'}, or use the arrow keys`}
          style={{ left: p.x, top: p.y }}
          {...bind({ type: 'corner', i })}
          onKeyDown={keys({ type: 'corner', i })}
        />
      ))}
      {c && knob && grips === 'box' && (
        <>
          <button
            className={pictureCss.knob}
            aria-label="Turn; drag it round the pivot, or use the arrow keys"
            style={{ left: knob.x, top: knob.y }}
            {...bind({ type: 'ring' })}
            onKeyDown={keys({ type: 'ring' })}
          />
          {placing.layers.length === 1 && (
            <button
              className={pictureCss.pivot}
              aria-label="Pivot; drag it, or move it with the arrow keys"
              style={{ left: c.x, top: c.y }}
              {...bind({ type: 'pivot' })}
              onKeyDown={keys({ type: 'pivot' })}
            />
          )}
        </>
      )}
      {met.length > 0 && (
        <div className={pictureCss.metName} aria-live="polite">
          {[...new Set(met.map((m) => m.line.name))].slice(0, 3).join(' · ')}
        </div>
      )}
    </>
  )
}

const middle = (a: Point, b: Point): Point => ({ x: (a.x + b.x) / 2, y: (a.y + b.y) / 2 })
const NONE: Snapped = { dx: 0, dy: 0, met: [] }

/** Where on the sheet a corner or the middle of a side is. */
function gripAt({ corners }: Placing, grip: Grip): Point {
  const i = 'i' in grip ? grip.i : 0
  const [a, b] = [corners![i]!, corners![(i + 1) % 4]!]
  return grip.type === 'corner' ? a : middle(a, b)
}
/** Which way a side's handle is dragged: across it. */
const sideWay = (p: Point, q: Point) => (Math.abs(p.x - q.x) > Math.abs(p.y - q.y) ? 'down' : 'across')
