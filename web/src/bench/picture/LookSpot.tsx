import { useAct } from '../../store/store.ts'
import { command } from '../slice.ts'
import { arrow, type Ground } from './ground.ts'
import pictureCss from './picture.module.css'
import { useHandle } from '../../parts/use-handle.ts'

/** One press of an arrow key, artwork pixels. */
const NUDGE = 8

/** The frame around what the process sheet's look spot shows; dragged, or moved by arrow keys. */
export function LookSpot({ at, ground }: { at: { x: number; y: number }; ground: Ground }) {
  const act = useAct()
  const move = (x: number, y: number, gesture: string) => act(command({ command: { type: 'set-look-spot', x, y }, gesture }))
  const bind = useHandle((e, drag) => {
    const { x, y } = ground.under(e)
    move(x, y, `spot-${drag}`)
  })
  return (
    <button
      className={pictureCss.spot}
      aria-label="Look spot; drag it, or move it with the arrow keys"
      style={{ left: ground.x + at.x * ground.scale, top: ground.y + at.y * ground.scale }}
      {...bind()}
      onKeyDown={(e) => {
        const by = arrow(e.key)
        if (by) move(at.x + NUDGE * by.x, at.y + NUDGE * by.y, 'spot-keys')
      }}
    />
  )
}
