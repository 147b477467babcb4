import {
  allLayers,
  HALF_AXIS,
  locate,
  locateStep,
  shownSize,
  stepAt,
  type Artwork,
  type Ellipse,
  type Layer,
  type Place,
  type Region,
} from '@nimble-quill/core'
import { useAct, useApp } from '../../store/store.ts'
import { command } from '../slice.ts'
import { GradientHandles } from './GradientHandles.tsx'
import { NUDGE, PlaceHandle } from './PlaceHandle.tsx'
import { arrow, type Ground } from './ground.ts'
import pictureCss from './picture.module.css'
import { useHandle } from '../../parts/use-handle.ts'

/** Where a layer's source lies, artwork pixels. */
function extentOf(artwork: Artwork, layer: Layer): Region {
  const { source } = layer
  if (source.type === 'photo') return { x: 0, y: 0, ...shownSize(source) }
  if (source.type === 'live') return extentOf(artwork, locate(artwork.layers, source.layer).layer)
  return artwork.sheet
}

/** Handles in the picture for the places of the chosen step: a grid's corner, a vignette's ellipse. */
export function PlaceHandles({ artwork, ground }: { artwork: Artwork; ground: Ground }) {
  const act = useAct()
  const choice = useApp((s) => s.bench.choice)
  if (choice?.type === 'layer') {
    const layer = [...allLayers(artwork.layers)].find((l) => l.id === choice.layer)
    return layer ? <GradientHandles artwork={artwork} layer={layer} ground={ground} /> : null
  }
  if (choice?.type !== 'step') return null
  const found = chosenStep(artwork, choice.layer, choice.step)
  if (!found) return null
  const { layer, use } = found
  const extent = extentOf(artwork, layer)
  return Object.entries(stepAt(use.step, use.version).params).map(([param, spec]) => {
    const onPut = (value: unknown, name: string) =>
      act(command({ command: { type: 'set-param', layer: layer.id, step: use.id, param, value }, gesture: `${use.id}.${param}.${name}` }))
    const given = use.params[param] ?? spec.default
    if (spec.type === 'place') return <PlaceHandle key={param} title={spec.title} value={given as Place} extent={extent} ground={ground} onPut={onPut} />
    if (spec.type === 'ellipse') return <EllipseHandles key={param} title={spec.title} value={given as Ellipse} extent={extent} ground={ground} onPut={onPut} />
    return null
  })
}

/** The chosen step and its layer, however deep in groups; null where they are not there any more. */
function chosenStep(artwork: Artwork, layer: string, step: string) {
  try {
    const at = locate(artwork.layers as Layer[], layer).layer
    return { layer: at, use: locateStep(at, step).step }
  } catch {
    return null
  }
}

/** An ellipse: its outline, its middle, and four places on its rim. */
function EllipseHandles(p: { title: string; value: Ellipse; extent: Region; ground: Ground; onPut: (value: Ellipse, gesture: string) => void }) {
  const { title, value, extent, ground, onPut } = p
  const [cx, cy] = [ground.x + (extent.x + value.x * extent.w) * ground.scale, ground.y + (extent.y + value.y * extent.h) * ground.scale]
  const [rx, ry] = [value.rx * extent.w * ground.scale, value.ry * extent.h * ground.scale]
  return (
    <>
      <svg className={pictureCss.outline} aria-hidden>
        <ellipse cx={cx} cy={cy} rx={rx} ry={ry} />
        <ellipse cx={cx} cy={cy} rx={rx} ry={ry} />
      </svg>
      <PlaceHandle title={`${title}, middle`} value={value} extent={extent} ground={ground} onPut={(to, gesture) => onPut({ ...value, ...to }, gesture)} />
      {(
        [
          ['right', 1, 0],
          ['left', -1, 0],
          ['lower', 0, 1],
          ['upper', 0, -1],
        ] as const
      ).map(([side, dx, dy]) => (
        <RimHandle
          key={side}
          title={`${title}, ${side} rim`}
          value={value}
          at={{ x: cx + dx * rx, y: cy + dy * ry }}
          way={{ dx, dy }}
          extent={extent}
          ground={ground}
          onPut={onPut}
        />
      ))}
    </>
  )
}

function RimHandle(p: {
  title: string
  value: Ellipse
  at: { x: number; y: number }
  way: { dx: number; dy: number }
  extent: Region
  ground: Ground
  onPut: (value: Ellipse, gesture: string) => void
}) {
  const { value, extent, ground, way } = p
  const held = (v: number) => Math.round(Math.min(HALF_AXIS.max, Math.max(HALF_AXIS.min, v)) * 10000) / 10000
  const bind = useHandle((e, drag) => {
    const { x, y } = ground.under(e)
    p.onPut(
      way.dx ? { ...value, rx: held(Math.abs((x - extent.x) / extent.w - value.x)) } : { ...value, ry: held(Math.abs((y - extent.y) / extent.h - value.y)) },
      drag,
    )
  })
  return (
    <button
      className={pictureCss.rim}
      data-way={way.dx ? 'across' : 'down'}
      aria-label={`${p.title}; drag it, or move it with the arrow keys`}
      style={{ left: p.at.x, top: p.at.y }}
      {...bind()}
      onKeyDown={(e) => {
        const by = arrow(e.key)
        if (!by) return
        e.stopPropagation()
        e.preventDefault()
        const out = (way.dx ? by.x * way.dx : by.y * way.dy) * (e.shiftKey ? NUDGE.large : NUDGE.fine)
        if (out !== 0) p.onPut(way.dx ? { ...value, rx: held(value.rx + out / extent.w) } : { ...value, ry: held(value.ry + out / extent.h) }, 'keys')
      }}
    />
  )
}
