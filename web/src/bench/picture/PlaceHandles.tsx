import { locate, stepAt, type Artwork, type Layer, type Place, type Region } from '@nimble-quill/core'
import { useRef } from 'react'
import { useAct, useApp } from '../../store/store.ts'
import { command } from '../slice.ts'
import pictureCss from './picture.module.css'

let drags = 0

/** Where a layer's source lies, artwork pixels. */
function extentOf(artwork: Artwork, layer: Layer): Region {
  const { source } = layer
  if (source.type === 'photo') return { x: 0, y: 0, w: source.width, h: source.height }
  if (source.type === 'live') return extentOf(artwork, locate(artwork.layers, source.layer).layer)
  return artwork.sheet
}

/** Handles in the picture for the places of the chosen step: a grid's corner, a vignette's middle. */
export function PlaceHandles(p: {
  artwork: Artwork
  scale: number
  x: number
  y: number
  point: (e: { clientX: number; clientY: number }) => { x: number; y: number }
  at: { x: number; y: number }
  zoom: number
}) {
  const act = useAct()
  const choice = useApp((s) => s.bench.choice)
  const gesture = useRef('')
  if (choice?.type !== 'step') return null
  const layer = p.artwork.layers.find((l) => l.id === choice.layer)
  const use = layer?.chain.find((s) => s.id === choice.step)
  if (!layer || !use) return null
  const extent = extentOf(p.artwork, layer)
  const places = Object.entries(stepAt(use.step, use.version).params).filter(([, spec]) => spec.type === 'place')
  return places.map(([param, spec]) => {
    const value = (use.params[param] ?? spec.default) as Place
    const put = (v: Place, name: string) =>
      act(command({ command: { type: 'set-param', layer: layer.id, step: use.id, param, value: v }, gesture: `${use.id}.${param}.${name}` }))
    const held = (v: number) => Math.round(Math.min(2, Math.max(-1, v)) * 10000) / 10000
    return (
      <button
        key={param}
        className={pictureCss.place}
        aria-label={`${spec.title}; drag it, or move it with the arrow keys`}
        style={{ left: p.x + (extent.x + value.x * extent.w) * p.scale, top: p.y + (extent.y + value.y * extent.h) * p.scale }}
        onPointerDown={(e) => {
          e.stopPropagation()
          e.currentTarget.setPointerCapture(e.pointerId)
          gesture.current = `drag-${++drags}`
        }}
        onPointerMove={(e) => {
          if (!e.buttons || !gesture.current) return
          e.stopPropagation()
          const q = p.point(e)
          put({ x: held(((q.x - p.at.x) / p.zoom - extent.x) / extent.w), y: held(((q.y - p.at.y) / p.zoom - extent.y) / extent.h) }, gesture.current)
        }}
        onPointerUp={() => {
          gesture.current = ''
        }}
        onKeyDown={(e) => {
          const by = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] }[e.key]
          if (!by) return
          e.stopPropagation()
          e.preventDefault()
          const step = e.shiftKey ? 20 : 2
          put({ x: held(value.x + (by[0]! * step) / extent.w), y: held(value.y + (by[1]! * step) / extent.h) }, 'keys')
        }}
      />
    )
  })
}
