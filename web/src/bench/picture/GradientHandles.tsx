import type { Artwork, GradientChange, Layer, Place } from '@nimble-quill/core'
import { useAct } from '../../store/store.ts'
import { command } from '../slice.ts'
import type { Ground } from './ground.ts'
import pictureCss from './picture.module.css'
import { PlaceHandle } from './PlaceHandle.tsx'

/** Where a gradient layer begins and ends, on the picture: a way, or a circle about its middle. */
export function GradientHandles({ artwork, layer, ground }: { artwork: Artwork; layer: Layer; ground: Ground }) {
  const act = useAct()
  const { source } = layer
  if (source.type !== 'gradient') return null
  const { field } = artwork
  const on = (p: Place) => ({ x: ground.x + (field.x + p.x * field.w) * ground.scale, y: ground.y + (field.y + p.y * field.h) * ground.scale })
  const [a, b] = [on(source.from), on(source.to)]
  const put = (change: GradientChange, gesture: string) =>
    act(command({ command: { type: 'set-gradient', layer: layer.id, change }, gesture: `${layer.id}.gradient.${gesture}` }))
  const round = source.shape === 'round'
  const drawn = round ? <circle cx={a.x} cy={a.y} r={Math.hypot(b.x - a.x, b.y - a.y)} /> : <line x1={a.x} y1={a.y} x2={b.x} y2={b.y} />
  // the middle takes the rim with it
  const along = (to: Place): GradientChange =>
    round ? { from: to, to: { x: source.to.x + to.x - source.from.x, y: source.to.y + to.y - source.from.y } } : { from: to }
  return (
    <>
      <svg className={pictureCss.outline} aria-hidden>
        <g>{drawn}</g>
        <g>{drawn}</g>
      </svg>
      <PlaceHandle
        title={round ? 'Middle of the gradient' : 'Gradient begins'}
        value={source.from}
        extent={field}
        ground={ground}
        onPut={(v, g) => put(along(v), g)}
      />
      <PlaceHandle
        title={round ? 'Rim of the gradient' : 'Gradient ends'}
        value={source.to}
        extent={field}
        ground={ground}
        onPut={(v, g) => put({ to: v }, g)}
      />
    </>
  )
}
