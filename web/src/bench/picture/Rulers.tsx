import type { Artwork } from '@nimble-quill/core'
import { useRef } from 'react'
import { useHandle } from '../../parts/use-handle.ts'
import { useAct, useApp } from '../../store/store.ts'
import { pixelsOf } from '../hands/slice.ts'
import { command } from '../slice.ts'
import { arrow, type Ground } from './ground.ts'
import pictureCss from './picture.module.css'

const THICK = 18
/** Numbers stand so far apart at least, CSS pixels. */
const APART = 56

/** Marks along a side: places of the sheet with their numbers. By ones, twos and fives, as rulers are. */
export function marksOf(from: number, to: number, cssPer: number): { at: number; text: string; long: boolean }[] {
  const least = APART / cssPer
  const ten = 10 ** Math.floor(Math.log10(least))
  const step = [1, 2, 5, 10].map((n) => n * ten).find((n) => n >= least)!
  const parts = step / ten === 2 || step / ten === 10 ? 4 : 5
  const marks: { at: number; text: string; long: boolean }[] = []
  for (let i = Math.ceil((from / step) * parts); i <= (to / step) * parts && marks.length < 2000; i++) {
    const at = (i * step) / parts
    const long = i % parts === 0
    marks.push({ at, long, text: long ? String(Number(at.toFixed(6))) : '' })
  }
  return marks
}

/** Whether a guide lies beside the sheet. */
const isOff = ({ x, y, w, h }: Artwork['sheet'], axis: 'upright' | 'level', at: number): boolean =>
  axis === 'upright' ? at < x || at > x + w : at < y || at > y + h

/** Rulers along the upper and left side of the picture; guides are dragged out of them. */
export function Rulers({ artwork, ground, width, height }: { artwork: Artwork; ground: Ground; width: number; height: number }) {
  const act = useAct()
  const unit = useApp((s) => s.hands.place.unit)
  const { sheet, guides } = artwork
  const drag = useRef<{ name: string; rest: Artwork['guides']; off: boolean } | null>(null)
  const put = (next: Artwork['guides'], name: string) =>
    act(command({ command: { type: 'set-guides', guides: next, what: 'Put a guide' }, gesture: `guide.${name}` }))
  // the upper ruler gives level guides, the left one upright ones: each is pulled across its ruler
  const bind = useHandle<'upright' | 'level'>(
    (held, name, axis) => {
      const p = ground.under(held)
      const at = Math.round(axis === 'upright' ? p.x : p.y)
      const rest = drag.current?.name === name ? drag.current.rest : guides
      drag.current = { name, rest, off: isOff(sheet, axis, at) }
      put([...rest, { axis, at }], name)
    },
    {
      onLeft: () => {
        // pulled out and let go beside the sheet, it is none
        if (drag.current?.off) put(drag.current.rest, drag.current.name)
        drag.current = null
      },
    },
  )
  // artwork pixels of one of what the ruler counts
  const one = (size: number) => (unit === '%' ? size / 100 : pixelsOf(unit, sheet.ppi))
  const side = (axis: 'upright' | 'level') => {
    const [from, size, zero, long] = axis === 'upright' ? [ground.x, sheet.w, sheet.x, width] : [ground.y, sheet.h, sheet.y, height]
    const per = one(size) * ground.scale
    const start = from + zero * ground.scale
    return marksOf(-start / per, (long - start) / per, per).map((m) => ({ ...m, css: start + m.at * per }))
  }
  return (
    <>
      <svg className={pictureCss.ruler} width={width} height={THICK} {...bind('level')} data-way="level" role="img" aria-label={`Ruler, ${unit}`}>
        {side('upright').map((m) => (
          <g key={m.at}>
            <line x1={m.css} x2={m.css} y1={THICK} y2={m.long ? 0 : 13} />
            {m.text && (
              <text x={m.css + 3} y={10}>
                {m.text}
              </text>
            )}
          </g>
        ))}
      </svg>
      <svg className={pictureCss.ruler} width={THICK} height={height} {...bind('upright')} data-way="upright" role="img" aria-label={`Upright ruler, ${unit}`}>
        {side('level').map((m) => (
          <g key={m.at}>
            <line y1={m.css} y2={m.css} x1={THICK} x2={m.long ? 0 : 13} />
            {m.text && (
              <text transform={`translate(10 ${m.css + 3}) rotate(90)`} x={0} y={0}>
                {m.text}
              </text>
            )}
          </g>
        ))}
      </svg>
    </>
  )
}

/** Guides over the picture: dragged, moved by arrow keys, taken away by Delete or by dragging them off the sheet. */
export function Guides({ artwork, ground }: { artwork: Artwork; ground: Ground }) {
  const act = useAct()
  const { guides, sheet } = artwork
  const put = (next: Artwork['guides'], what: string, gesture?: string) =>
    act(command({ command: { type: 'set-guides', guides: next, what }, ...(gesture ? { gesture: `guide.${gesture}` } : {}) }))
  const moved = (i: number, at: number, gesture: string) =>
    put(
      guides.map((g, k) => (k === i ? { ...g, at } : g)),
      'Move a guide',
      gesture,
    )
  const last = useRef<{ i: number; name: string } | null>(null)
  const bind = useHandle<number>(
    (held, drag, i) => {
      const p = ground.under(held)
      last.current = { i, name: drag }
      moved(i, Math.round(guides[i]!.axis === 'upright' ? p.x : p.y), drag)
    },
    {
      onLeft: () => {
        const { i, name } = last.current ?? { i: -1, name: '' }
        last.current = null
        const g = guides[i]
        if (g && isOff(sheet, g.axis, g.at))
          put(
            guides.filter((_, k) => k !== i),
            'Take a guide away',
            name,
          )
      },
    },
  )
  return guides.map((g, i) => {
    const upright = g.axis === 'upright'
    const at = upright ? ground.x + g.at * ground.scale : ground.y + g.at * ground.scale
    return (
      <button
        key={`${g.axis}-${i}`}
        className={pictureCss.guide}
        data-way={g.axis}
        aria-label={`Guide at ${g.at - (upright ? sheet.x : sheet.y)} px ${upright ? 'across' : 'down'}; drag it, Delete takes it away`}
        style={upright ? { left: at, height: ground.size.h } : { top: at, width: ground.size.w }}
        {...bind(i)}
        onKeyDown={(e) => {
          if (e.key === 'Delete' || e.key === 'Backspace') {
            e.stopPropagation()
            put(
              guides.filter((_, k) => k !== i),
              'Take a guide away',
            )
            return
          }
          const by = arrow(e.key)
          const step = by && (upright ? by.x : by.y)
          if (!step) return
          e.stopPropagation()
          e.preventDefault()
          moved(i, g.at + step * (e.shiftKey ? 10 : 1), `keys-${i}`)
        }}
      />
    )
  })
}
