import type { Region } from '@nimble-quill/core'
import { IconArrowsHorizontal, IconArrowsVertical } from '@tabler/icons-react'
import { arrow, type Ground } from './ground.ts'
import pictureCss from './picture.module.css'
import { useHandle } from '../../parts/use-handle.ts'

/** One press of an arrow key, of the sheet. */
const NUDGE = 0.02

/** The line between the photo and the artwork, at a share of the sheet. */
export function WipeLine(p: { way: 'upright' | 'level'; at: number; sheet: Region; ground: Ground; onMove: (at: number) => void }) {
  const { way, at, sheet, ground } = p
  const put = (v: number) => p.onMove(Math.min(1, Math.max(0, v)))
  const bind = useHandle((e) => {
    const { x, y } = ground.under(e)
    put(way === 'upright' ? (x - sheet.x) / sheet.w : (y - sheet.y) / sheet.h)
  })
  const { x, y, scale, size } = ground
  return (
    <div
      className={pictureCss.wipe}
      data-way={way}
      style={
        way === 'upright'
          ? { left: x + (sheet.x + sheet.w * at) * scale, top: Math.max(0, y + sheet.y * scale), height: Math.min(size.h, sheet.h * scale) }
          : { top: y + (sheet.y + sheet.h * at) * scale, left: Math.max(0, x + sheet.x * scale), width: Math.min(size.w, sheet.w * scale) }
      }
      {...bind()}
    >
      <button
        role="slider"
        aria-label="Wipe line: photo before it, artwork behind it"
        aria-valuemin={0}
        aria-valuemax={100}
        aria-valuenow={Math.round(at * 100)}
        onKeyDown={(e) => {
          const by = arrow(e.key)
          if (by) put(at + NUDGE * (by.x + by.y))
        }}
      >
        {way === 'upright' ? <IconArrowsHorizontal size={15} /> : <IconArrowsVertical size={15} />}
      </button>
    </div>
  )
}
