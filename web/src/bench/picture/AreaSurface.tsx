import { useEffect, useRef, useState, type KeyboardEvent, type PointerEvent } from 'react'
import { useKeys } from '../../parts/keys.ts'
import { useApp } from '../../store/store.ts'
import type { Artwork } from '@nimble-quill/core'
import { useArea } from '../hands/use-area.ts'
import type { Ground } from './ground.ts'
import pictureCss from './picture.module.css'

type Point = { x: number; y: number }

/** A drag shorter than this is a click, CSS pixels. */
const SHORT = 3
/** A corner is the first one again within this distance, CSS pixels. */
const CLOSE = 9

/** Where areas are drawn, over the picture. */
export function AreaSurface({ artwork, ground }: { artwork: Artwork; ground: Ground }) {
  const { by, like } = useApp((s) => s.hands.area)
  const lent = useApp((s) => s.hands.lent)
  const { take, alike, letGo } = useArea()
  const surface = useRef<HTMLDivElement>(null)
  const pointer = useRef<number | null>(null)
  const [drawn, setDrawn] = useState<Point[]>([])
  const [ahead, setAhead] = useState<Point | null>(null)
  useEffect(() => surface.current?.focus({ preventScroll: true }), [])
  useEffect(() => {
    setDrawn([])
    setAhead(null)
  }, [by])

  // what is being drawn is given up first, the hand stays
  useKeys(
    'escape',
    () => {
      pointer.current = null
      setDrawn([])
      setAhead(null)
    },
    { enabled: drawn.length > 0 },
  )

  const near = (a: Point, b: Point, css: number) => Math.hypot(a.x - b.x, a.y - b.y) * ground.scale < css
  const box = ([a, b]: readonly Point[]) => (a && b ? { x: Math.min(a.x, b.x), y: Math.min(a.y, b.y), w: Math.abs(a.x - b.x), h: Math.abs(a.y - b.y) } : null)
  const done = (points: readonly Point[], name: string) => {
    setDrawn([])
    setAhead(null)
    if (points.length > 2) void take({ type: 'outline', points }, name)
  }

  const down = (e: PointerEvent) => {
    if (lent === 'pan' || (e.pointerType === 'mouse' && e.button !== 0) || pointer.current !== null) return
    e.stopPropagation()
    surface.current?.focus({ preventScroll: true })
    const at = ground.under(e)
    if (by === 'alike') {
      void alike(at)
      return
    }
    if (by === 'corners') {
      if (drawn.length > 2 && near(drawn[0]!, at, CLOSE)) done(drawn, 'Area by its corners')
      else setDrawn([...drawn, at])
      setAhead(null)
      return
    }
    e.currentTarget.setPointerCapture(e.pointerId)
    pointer.current = e.pointerId
    setDrawn([at])
  }
  const move = (e: PointerEvent) => {
    if (by === 'corners') {
      if (drawn.length) setAhead(ground.under(e))
      return
    }
    if (pointer.current !== e.pointerId) return
    e.stopPropagation()
    if (by === 'free') {
      const events = e.nativeEvent.getCoalescedEvents?.() ?? []
      const more = (events.length ? events : [e.nativeEvent]).map((p) => ground.under(p))
      setDrawn((all) => [...all, ...more])
    } else setDrawn(([from]) => [from!, ground.under(e)])
  }
  const up = (e: PointerEvent) => {
    if (pointer.current !== e.pointerId) return
    e.stopPropagation()
    pointer.current = null
    const all = drawn
    if (e.type === 'pointercancel' || all.length < 2 || (by !== 'free' && near(all[0]!, all.at(-1)!, SHORT))) {
      setDrawn([])
      return
    }
    if (by === 'free') return done(all, 'Area by hand')
    setDrawn([])
    const found = box(all)
    if (found && (by === 'rectangle' || by === 'ellipse')) void take({ type: by, ...found }, by === 'ellipse' ? 'Area, an ellipse' : 'Area, a rectangle')
  }
  const keys = (e: KeyboardEvent) => {
    if (e.key === 'Enter' && drawn.length > 2) done(drawn, 'Area by its corners')
    else if (e.key === 'Backspace' && drawn.length) setDrawn(drawn.slice(0, -1))
    else if (e.key === 'Delete' && artwork.area) letGo()
    else return
    e.preventDefault()
    e.stopPropagation()
  }

  const screen = (p: Point) => ({ x: ground.x + p.x * ground.scale, y: ground.y + p.y * ground.scale })
  const found = by === 'rectangle' || by === 'ellipse' ? box(drawn) : null
  const [corner, size] = found ? [screen(found), { w: found.w * ground.scale, h: found.h * ground.scale }] : [null, null]
  const line = [...drawn, ...(ahead ? [ahead] : [])].map(screen)
  return (
    <div
      ref={surface}
      className={pictureCss.area}
      data-part="area"
      data-by={by}
      data-drawing={drawn.length > 0 || undefined}
      style={lent === 'pan' ? { pointerEvents: 'none' } : undefined}
      tabIndex={0}
      role="application"
      aria-label={
        by === 'alike'
          ? `Take what is like a ${like.by}: click it`
          : by === 'corners'
            ? 'Draw an area by its corners: Enter closes it, Backspace takes the last one back'
            : 'Draw an area: drag over the picture; Delete lets it go'
      }
      onPointerDown={down}
      onPointerMove={move}
      onPointerUp={up}
      onPointerCancel={up}
      onDoubleClick={() => by === 'corners' && done(drawn, 'Area by its corners')}
      onKeyDown={keys}
    >
      <svg aria-hidden>
        {(['dark', 'light'] as const).map((tone) => (
          <g key={tone} className={pictureCss[tone]}>
            {corner && size && by === 'rectangle' && <rect x={corner.x} y={corner.y} width={size.w} height={size.h} />}
            {corner && size && by === 'ellipse' && <ellipse cx={corner.x + size.w / 2} cy={corner.y + size.h / 2} rx={size.w / 2} ry={size.h / 2} />}
            {(by === 'free' || by === 'corners') && line.length > 1 && <polyline points={line.map((p) => `${p.x.toFixed(1)},${p.y.toFixed(1)}`).join(' ')} />}
            {by === 'corners' && drawn.map(screen).map((p, i) => <circle key={i} cx={p.x} cy={p.y} r={i === 0 ? 4.5 : 2.5} />)}
          </g>
        ))}
      </svg>
    </div>
  )
}
