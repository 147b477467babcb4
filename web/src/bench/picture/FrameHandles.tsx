import { draggedFrame, offLevel, type Artwork, type FrameGrip, type Point, type Region } from '@nimble-quill/core'
import { useRef, useState, type KeyboardEvent } from 'react'
import { useHandle } from '../../parts/use-handle.ts'
import { useAct, useApp } from '../../store/store.ts'
import { ratioOf } from '../hands/FrameColumn.tsx'
import { setFrameHand } from '../hands/slice.ts'
import { useFraming } from '../hands/use-framing.ts'
import { arrow, type Ground } from './ground.ts'
import pictureCss from './picture.module.css'

const GRIPS: [string, FrameGrip][] = [
  ['Upper edge', { x: 0, y: -1 }],
  ['Right edge', { x: 1, y: 0 }],
  ['Lower edge', { x: 0, y: 1 }],
  ['Left edge', { x: -1, y: 0 }],
  ['Upper left corner of the sheet', { x: -1, y: -1 }],
  ['Upper right corner of the sheet', { x: 1, y: -1 }],
  ['Lower right corner of the sheet', { x: 1, y: 1 }],
  ['Lower left corner of the sheet', { x: -1, y: 1 }],
]
/** Of the golden section, the smaller part. */
const GOLDEN = (3 - Math.sqrt(5)) / 2

/** Round the sheet: its edges and corners, which draw it in or out; all of it, which is moved; what lies outside is dimmed. Or a line that should be level. */
export function FrameHandles({ artwork, ground, onDragging }: { artwork: Artwork; ground: Ground; onDragging: (on: boolean) => void }) {
  const hand = useApp((s) => s.hands.frame)
  const { frame } = useFraming()
  const { sheet } = artwork
  const rect: Region = { x: sheet.x, y: sheet.y, w: sheet.w, h: sheet.h }
  const base = useRef(rect)
  const ratio = ratioOf(hand)
  const bind = useHandle<FrameGrip>(
    (held, drag, grip) => {
      const [at, start] = [ground.under(held), ground.under(held.start)]
      const keeps = held.shiftKey && ratio === null ? base.current.w / base.current.h : ratio
      frame(draggedFrame(base.current, grip, at.x - start.x, at.y - start.y, keeps), grip.x || grip.y ? 'Crop' : 'Move the frame', drag)
    },
    {
      onTaken: () => {
        base.current = rect
        onDragging(true)
      },
      onLeft: () => onDragging(false),
    },
  )
  const keys = (grip: FrameGrip) => (e: KeyboardEvent) => {
    const by = arrow(e.key)
    if (!by || e.ctrlKey || e.metaKey || e.altKey) return
    e.stopPropagation()
    e.preventDefault()
    const far = e.shiftKey ? 10 : 1
    frame(draggedFrame(rect, grip, by.x * far, by.y * far, ratio), grip.x || grip.y ? 'Crop' : 'Move the frame', `keys${grip.x}${grip.y}`)
  }
  const css = (p: Point) => ({ x: ground.x + p.x * ground.scale, y: ground.y + p.y * ground.scale })
  const a = css(sheet)
  const b = css({ x: sheet.x + sheet.w, y: sheet.y + sheet.h })
  const [w, h] = [b.x - a.x, b.y - a.y]
  const shares = hand.lines === 'thirds' ? [1 / 3, 2 / 3] : hand.lines === 'golden' ? [GOLDEN, 1 - GOLDEN] : []
  return (
    <>
      <svg className={pictureCss.laid} aria-hidden>
        <path
          className={pictureCss.outside}
          fillRule="evenodd"
          d={`M-9999 -9999H${ground.size.w + 9999}V${ground.size.h + 9999}H-9999Z M${a.x} ${a.y}H${b.x}V${b.y}H${a.x}Z`}
        />
        <rect className={pictureCss.dark} x={a.x} y={a.y} width={w} height={h} />
        <rect className={pictureCss.light} x={a.x} y={a.y} width={w} height={h} />
        {shares.map((s) => (
          <g key={s} className={pictureCss.thirds}>
            <line x1={a.x + w * s} x2={a.x + w * s} y1={a.y} y2={b.y} />
            <line y1={a.y + h * s} y2={a.y + h * s} x1={a.x} x2={b.x} />
          </g>
        ))}
      </svg>
      {hand.level ? (
        <LevelLine ground={ground} />
      ) : (
        <>
          <button
            className={pictureCss.body}
            data-part="frame"
            aria-label="The frame; drag it, or move it with the arrow keys"
            style={{ left: a.x, top: a.y, width: Math.max(0, w), height: Math.max(0, h) }}
            {...bind({ x: 0, y: 0 })}
            onKeyDown={keys({ x: 0, y: 0 })}
          />
          {GRIPS.map(([name, grip]) => {
            const edge = grip.x === 0 || grip.y === 0
            return (
              <button
                key={name}
                className={edge ? pictureCss.rim : pictureCss.corner}
                {...(edge && { 'data-way': grip.x ? 'across' : 'down' })}
                aria-label={`${name}; drag it, or use the arrow keys`}
                style={{ left: a.x + (w * (grip.x + 1)) / 2, top: a.y + (h * (grip.y + 1)) / 2 }}
                {...bind(grip)}
                onKeyDown={keys(grip)}
              />
            )
          })}
        </>
      )}
    </>
  )
}

/** A line drawn along what should be level or plumb: let go, all on the sheet is turned by what it is off. */
function LevelLine({ ground }: { ground: Ground }) {
  const act = useAct()
  const { drawnIn } = useApp((s) => s.hands.frame)
  const { straighten } = useFraming()
  const [line, setLine] = useState<[Point, Point] | null>(null)
  const latest = useRef<[Point, Point] | null>(null)
  const bind = useHandle(
    (held) => {
      latest.current = [ground.under(held.start), ground.under(held)]
      setLine(latest.current)
    },
    {
      onLeft: () => {
        const drawn = latest.current
        latest.current = null
        setLine(null)
        if (!drawn) return
        const off = offLevel(...drawn)
        act(setFrameHand({ level: false }))
        if (Math.abs(off) > 0.01) void straighten(off, drawnIn)
      },
    },
  )
  const css = (p: Point) => ({ x: ground.x + p.x * ground.scale, y: ground.y + p.y * ground.scale })
  const [p, q] = line ? [css(line[0]), css(line[1])] : [null, null]
  return (
    <>
      <button
        className={pictureCss.levelling}
        aria-label="Draw along what should be level or plumb; or type degrees in the column"
        style={{ left: 0, top: 0, width: ground.size.w, height: ground.size.h }}
        {...bind()}
      />
      {p && q && line && (
        <>
          <svg className={pictureCss.laid} aria-hidden>
            <line className={pictureCss.dark} x1={p.x} y1={p.y} x2={q.x} y2={q.y} />
            <line className={pictureCss.light} x1={p.x} y1={p.y} x2={q.x} y2={q.y} />
          </svg>
          <div className={pictureCss.metName} aria-live="polite">
            {offLevel(...line).toFixed(1)}° off
          </div>
        </>
      )}
    </>
  )
}
