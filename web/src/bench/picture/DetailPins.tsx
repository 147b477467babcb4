import { pinRadius, type Artwork } from '@nimble-quill/core'
import { useHandle } from '../../parts/use-handle.ts'
import { useAct } from '../../store/store.ts'
import { command } from '../slice.ts'
import { arrow, type Ground } from './ground.ts'
import pictureCss from './picture.module.css'
import { NUDGE } from './PlaceHandle.tsx'

/** The detail pins with how far they reach; dragged, moved by arrow keys, taken out by Delete. */
export function DetailPins({ artwork, ground }: { artwork: Artwork; ground: Ground }) {
  const act = useAct()
  const { pins } = artwork
  const put = (pins: Artwork['pins'], what: string, gesture?: string) =>
    act(command({ command: { type: 'set-pins', pins, what }, ...(gesture ? { gesture } : {}) }))
  const move = (id: string, x: number, y: number, gesture: string) =>
    put(
      pins.map((p) => (p.id === id ? { ...p, x: Math.round(x), y: Math.round(y) } : p)),
      'Move a detail pin',
      gesture,
    )
  const bind = useHandle<string>((e, drag, id) => {
    const { x, y } = ground.under(e)
    move(id, x, y, drag)
  })
  return pins.map((pin, i) => {
    const radius = pinRadius(pin, artwork) * ground.scale
    return (
      <div key={pin.id} className={pictureCss.pin} style={{ left: ground.x + pin.x * ground.scale, top: ground.y + pin.y * ground.scale }}>
        <i aria-hidden style={{ width: radius * 2, height: radius * 2 }} />
        <button
          aria-label={`Detail pin ${i + 1}; drag it, move it with the arrow keys, take it out with Delete`}
          {...bind(pin.id)}
          onKeyDown={(e) => {
            const by = arrow(e.key)
            if (!by && e.key !== 'Delete' && e.key !== 'Backspace') return
            e.stopPropagation()
            e.preventDefault()
            const step = e.shiftKey ? NUDGE.large : NUDGE.fine
            if (by) move(pin.id, pin.x + by.x * step, pin.y + by.y * step, `${pin.id}-keys`)
            else
              put(
                pins.filter((p) => p.id !== pin.id),
                'Take out a detail pin',
              )
          }}
        >
          {i + 1}
        </button>
      </div>
    )
  })
}
