import type { Place, Region } from '@nimble-quill/core'
import { useHandle } from '../../parts/use-handle.ts'
import { arrow, type Ground } from './ground.ts'
import pictureCss from './picture.module.css'

/** One press of an arrow key, artwork pixels; with Shift the larger. */
export const NUDGE = { fine: 2, large: 20 }

/** One place, given in shares of what its layer covers. */
export function PlaceHandle(p: { title: string; value: Place; extent: Region; ground: Ground; onPut: (value: Place, gesture: string) => void }) {
  const { value, extent, ground } = p
  const held = (v: number) => Math.round(Math.min(2, Math.max(-1, v)) * 10000) / 10000
  const bind = useHandle((e, drag) => {
    const { x, y } = ground.under(e)
    p.onPut({ x: held((x - extent.x) / extent.w), y: held((y - extent.y) / extent.h) }, drag)
  })
  return (
    <button
      className={pictureCss.place}
      aria-label={`${p.title}; drag it, or move it with the arrow keys`}
      style={{ left: ground.x + (extent.x + value.x * extent.w) * ground.scale, top: ground.y + (extent.y + value.y * extent.h) * ground.scale }}
      {...bind()}
      onKeyDown={(e) => {
        const by = arrow(e.key)
        if (!by) return
        e.stopPropagation()
        e.preventDefault()
        const step = e.shiftKey ? NUDGE.large : NUDGE.fine
        p.onPut({ x: held(value.x + (by.x * step) / extent.w), y: held(value.y + (by.y * step) / extent.h) }, 'keys')
      }}
    />
  )
}
