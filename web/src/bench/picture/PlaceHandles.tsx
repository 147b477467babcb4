import { locate, stepAt, type Artwork, type Layer, type Place, type Region } from '@nimble-quill/core'
import { useAct, useApp } from '../../store/store.ts'
import { command } from '../slice.ts'
import { arrow, type Ground } from './ground.ts'
import pictureCss from './picture.module.css'
import { useHandle } from '../../parts/use-handle.ts'

/** One press of an arrow key, artwork pixels; with Shift the larger. */
const NUDGE = { fine: 2, large: 20 }

/** Where a layer's source lies, artwork pixels. */
function extentOf(artwork: Artwork, layer: Layer): Region {
  const { source } = layer
  if (source.type === 'photo') return { x: 0, y: 0, w: source.width, h: source.height }
  if (source.type === 'live') return extentOf(artwork, locate(artwork.layers, source.layer).layer)
  return artwork.sheet
}

/** Handles in the picture for the places of the chosen step: a grid's corner, a vignette's middle. */
export function PlaceHandles({ artwork, ground }: { artwork: Artwork; ground: Ground }) {
  const act = useAct()
  const choice = useApp((s) => s.bench.choice)
  if (choice?.type !== 'step') return null
  const layer = artwork.layers.find((l) => l.id === choice.layer)
  const use = layer?.chain.find((s) => s.id === choice.step)
  if (!layer || !use) return null
  const places = Object.entries(stepAt(use.step, use.version).params).filter(([, spec]) => spec.type === 'place')
  return places.map(([param, spec]) => (
    <PlaceHandle
      key={param}
      title={spec.title}
      value={(use.params[param] ?? spec.default) as Place}
      extent={extentOf(artwork, layer)}
      ground={ground}
      onPut={(value, name) =>
        act(command({ command: { type: 'set-param', layer: layer.id, step: use.id, param, value }, gesture: `${use.id}.${param}.${name}` }))
      }
    />
  ))
}

/** One place, given in shares of what its layer covers. */
function PlaceHandle(p: { title: string; value: Place; extent: Region; ground: Ground; onPut: (value: Place, gesture: string) => void }) {
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
