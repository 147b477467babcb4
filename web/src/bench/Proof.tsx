import type { Artwork, Target } from '@nimble-quill/core'
import { useEffect, useRef } from 'react'
import { useApp } from '../store/store.ts'
import { useEngine } from './engine-context.ts'

interface Props {
  artwork: Artwork
  /** Whether the artwork is the one on the bench, which the engine knows already. */
  candidate?: boolean
  target: Target
  /** CSS pixels. */
  w: number
  h: number
  label: string
}

/** A small picture of a target: whole, or the look spot at 100 %. Shows the last one until the next is there. */
export function ProofPicture({ artwork, candidate, target, w, h, label }: Props) {
  const engine = useEngine()
  const canvas = useRef<HTMLCanvasElement>(null)
  const proofs = useApp((s) => s.prefs.proofs)
  const key = JSON.stringify(target)
  useEffect(() => {
    const stop = new AbortController()
    const ratio = window.devicePixelRatio || 1
    // a drag in progress has the engine to itself
    const timer = setTimeout(
      () => {
        if (!candidate) engine.setArtwork(artwork)
        engine
          .picture(
            {
              ...(candidate ? { artwork } : {}),
              target,
              side: Math.round(Math.max(w, h) * ratio),
              ...(proofs === 'spot' ? { spot: { w: Math.round(w * ratio), h: Math.round(h * ratio) } } : {}),
            },
            stop.signal,
          )
          .then(
            (p) => {
              const element = canvas.current
              if (!element) return
              element.width = p.w
              element.height = p.h
              const context = element.getContext('2d')!
              context.putImageData(new ImageData(new Uint8ClampedArray(p.pixels), p.w, p.h), 0, 0)
              // what is clear shows white paper
              context.globalCompositeOperation = 'destination-over'
              context.fillStyle = '#fff'
              context.fillRect(0, 0, p.w, p.h)
              element.dataset.made = 'yes'
            },
            () => undefined,
          )
      },
      candidate ? 0 : 160,
    )
    return () => {
      clearTimeout(timer)
      stop.abort()
    }
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [engine, artwork, candidate, key, w, h, proofs])
  return <canvas ref={canvas} role="img" aria-label={label} style={{ width: w, height: h }} />
}

/** CSS size of a small picture of some height: as the sheet is shaped, within reason; round the look spot always 4 : 3. */
export function proofSize(artwork: Artwork, h: number, proofs: 'whole' | 'spot'): { w: number; h: number } {
  const aspect = proofs === 'spot' ? 4 / 3 : artwork.sheet.w / artwork.sheet.h
  return { w: Math.round(h * Math.min(1.9, Math.max(0.62, aspect))), h }
}
