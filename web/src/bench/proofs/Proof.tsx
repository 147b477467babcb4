import type { Artwork, Target } from '@nimble-quill/core'
import { memo, useEffect, useRef } from 'react'
import { useApp } from '../../store/store.ts'
import { useEngine } from '../engine-context.ts'
import { useFeed } from './feed.ts'

interface Props {
  /** Another artwork than the one on the bench, or how it is made. */
  candidate?: Artwork | (() => Artwork)
  target: Target
  /** CSS pixels. */
  w: number
  h: number
  label: string
  /** Whole, also where others show the look spot. */
  whole?: boolean
  /** Made only when it comes into sight: of dozens, most are never looked at, and some are planned for seconds. */
  whenSeen?: boolean
}

/** A small picture of a target: whole, or the look spot at 100 %. Shows the last one until the next is there. */
export const ProofPicture = memo(
  function ProofPicture({ candidate, target, w, h, label, whole = false, whenSeen = false }: Props) {
    const engine = useEngine()
    const feed = useFeed()
    const canvas = useRef<HTMLCanvasElement>(null)
    const proofs = useApp((s) => (whole ? 'whole' : s.prefs.proofs))
    const key = JSON.stringify(target)
    useEffect(() => {
      let stop = new AbortController()
      let timer: ReturnType<typeof setTimeout>
      const ratio = window.devicePixelRatio || 1
      let seen = !whenSeen
      const ask = () => {
        if (!seen) return
        if (!candidate) engine.setArtwork(feed.artwork)
        engine
          .picture(
            {
              ...(candidate ? { artwork: typeof candidate === 'function' ? candidate() : candidate } : {}),
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
      }
      // a drag in progress has the engine to itself, and who types a name at once waits for what is called that, not for all the rest
      const soon = () => {
        clearTimeout(timer)
        stop.abort()
        stop = new AbortController()
        // what it shows is of before
        delete canvas.current?.dataset.made
        timer = setTimeout(ask, candidate && !whenSeen ? 0 : 160)
      }
      soon()
      const watch = whenSeen
        ? new IntersectionObserver((entries) => {
            seen = entries.at(-1)!.isIntersecting
            const element = canvas.current
            if (!element) return
            element.dataset.seen = seen ? 'yes' : 'no'
            if (!seen) stop.abort()
            else if (!element.dataset.made) soon()
          })
        : null
      if (canvas.current) watch?.observe(canvas.current)
      const unheard = candidate ? () => undefined : feed.listen(soon)
      return () => {
        watch?.disconnect()
        unheard()
        clearTimeout(timer)
        stop.abort()
      }
      // eslint-disable-next-line react-hooks/exhaustive-deps
    }, [engine, feed, candidate, key, w, h, proofs, whenSeen])
    return <canvas ref={canvas} role="img" aria-label={label} style={{ width: w, height: h }} />
  },
  // targets are made anew at each drawing, but mean the same
  (a, b) => a.candidate === b.candidate && a.w === b.w && a.h === b.h && a.label === b.label && JSON.stringify(a.target) === JSON.stringify(b.target),
)

/** CSS size of a small picture of some height: as the sheet is shaped, within reason; round the look spot always 4 : 3. */
export function proofSize(sheet: Artwork['sheet'], h: number, proofs: 'whole' | 'spot'): { w: number; h: number } {
  const aspect = proofs === 'spot' ? 4 / 3 : sheet.w / sheet.h
  return { w: Math.round(h * Math.min(1.9, Math.max(0.62, aspect))), h }
}
