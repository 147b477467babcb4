import { tipIds, tips, type Brush, type TipId } from '@nimble-quill/core'
import { memo, useEffect, useRef } from 'react'
import { useEngine } from '../engine-context.ts'
import classes from './hands.module.css'

/** Pixels of a swatch. */
const [W, H] = [256, 68]
/** What of its height a stroke takes. */
const SHARE = 0.42

/** A tip as the stroke it makes with the brush as it is set. */
const TipSwatch = memo(function TipSwatch({ brush, tip }: { brush: Brush; tip: TipId }) {
  const engine = useEngine()
  const canvas = useRef<HTMLCanvasElement>(null)
  const { edge, hairs, tooth, regularity, turn, angle } = brush
  useEffect(() => {
    const given = new AbortController()
    const shown = { ...brush, tip, breadth: H * SHARE, cover: 0.8, most: 1, dry: 0, steadiness: 0 }
    const timer = setTimeout(() => {
      engine
        .swatch(shown, W, H, given.signal)
        .then(({ pixels }) => canvas.current?.getContext('2d')?.putImageData(new ImageData(new Uint8ClampedArray(pixels), W, H), 0, 0))
        .catch(() => undefined)
    }, 120)
    return () => {
      clearTimeout(timer)
      given.abort()
    }
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [engine, tip, edge, hairs, tooth, regularity, turn, angle])
  return <canvas ref={canvas} width={W} height={H} />
})

/** The brush's tip, chosen by the stroke it makes. */
export function TipChoice({ brush, onChange, onHelp }: { brush: Brush; onChange: (tip: TipId) => void; onHelp: (t: string) => void }) {
  return (
    <div className={classes.tips} role="radiogroup" aria-label="Tip">
      {tipIds.map((id) => (
        <button
          key={id}
          className={classes.tip}
          role="radio"
          aria-checked={brush.tip === id}
          onClick={() => onChange(id)}
          onPointerEnter={() => onHelp(tips[id].help)}
          onFocus={() => onHelp(tips[id].help)}
        >
          <TipSwatch brush={brush} tip={id} />
          <span>{tips[id].title}</span>
        </button>
      ))}
    </div>
  )
}
