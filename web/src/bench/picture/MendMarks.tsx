import { forwardRef, useImperativeHandle, useRef } from 'react'
import type { PointerHandle } from '../hands/BrushPointer.tsx'
import type { Ground } from './ground.ts'
import pictureCss from './picture.module.css'

interface Props {
  ground: Ground
  /** Where it is taken from, sheet pixels; null: not said. */
  source: { x: number; y: number } | null
  /** From the hand to the source, once it travels with it; sheet pixels. */
  offset: { dx: number; dy: number } | null
  /** What a spot was painted over so far, and how broad, CSS pixels. */
  trail: readonly { x: number; y: number }[] | null
  breadth: number
}

/** Where it is taken from: a cross, which goes with the hand once it travels; and what a spot is painted over. */
export const MendMarks = forwardRef<PointerHandle, Props>(function MendMarks({ ground, source, offset, trail, breadth }, ref) {
  const cross = useRef<SVGGElement>(null)
  useImperativeHandle(ref, () => ({
    at: (p) => {
      const g = cross.current
      if (!g || !offset || !p) return
      g.setAttribute('transform', `translate(${p.x + offset.dx * ground.scale} ${p.y + offset.dy * ground.scale})`)
    },
  }))
  const at = source && { x: ground.x + source.x * ground.scale, y: ground.y + source.y * ground.scale }
  return (
    <svg className={pictureCss.mend} aria-hidden data-part="mend-marks">
      {trail && trail.length > 0 && (
        <polyline
          points={(trail.length > 1 ? trail : [trail[0]!, { x: trail[0]!.x + 0.01, y: trail[0]!.y }])
            .map((p) => `${(ground.x + p.x * ground.scale).toFixed(1)},${(ground.y + p.y * ground.scale).toFixed(1)}`)
            .join(' ')}
          strokeWidth={breadth}
          className={pictureCss.trail}
        />
      )}
      {at && (
        <g ref={cross} transform={`translate(${at.x} ${at.y})`}>
          {(['dark', 'light'] as const).map((tone) => (
            <path
              key={tone}
              className={pictureCss[tone]}
              d="M -9 0 H -3 M 3 0 H 9 M 0 -9 V -3 M 0 3 V 9 M -6 -6 L -8 -8 M 6 6 L 8 8 M -6 6 L -8 8 M 6 -6 L 8 -8"
            />
          ))}
        </g>
      )}
    </svg>
  )
})
