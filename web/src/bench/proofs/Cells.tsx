import { Button, SegmentedControl } from '@mantine/core'
import { useElementSize } from '@mantine/hooks'
import type { Artwork } from '@nimble-quill/core'
import { useEffect, type ReactNode } from 'react'
import { setPrefs } from '../../store/prefs.ts'
import { useAct, useApp } from '../../store/store.ts'
import { openProofSheet } from '../slice.ts'
import { ProofPicture } from './Proof.tsx'
import proofsCss from './proofs.module.css'

/** Between cells, and what stands below one, CSS pixels. */
const GAP = 8
const CAPTION = 26

/** Of cells that are as large as they can be: how many stand side by side, and how large a picture is. `aspect` null: it fills its cell. */
export function laidOut(
  count: number,
  room: { w: number; h: number },
  aspect: number | null,
  across: number | null = null,
): { across: number; w: number; h: number } {
  let best = { across: 1, w: 0, h: 0 }
  for (let n = across ?? 1; n <= (across ?? Math.max(1, count)); n++) {
    const rows = Math.max(1, Math.ceil(count / n))
    const w = Math.max(0, Math.floor((room.w - GAP * (n - 1)) / n))
    const h = Math.max(0, Math.floor((room.h - GAP * (rows - 1)) / rows) - CAPTION)
    const size = aspect === null ? { w, h } : { w: Math.min(w, Math.round(h * aspect)), h: Math.min(h, Math.round(w / aspect)) }
    // a picture that fills its cell: the one that is least of a strip
    const worth = (s: { w: number; h: number }) => (aspect === null ? Math.min(s.w, 1.5 * s.h) : s.w)
    if (worth(size) > worth(best)) best = { across: n, ...size }
  }
  return best
}

interface Props {
  /** What each cell shows, and what it is called. */
  all: readonly { name: string; made: Artwork }[]
  /** How many stand side by side; null: as it comes out largest. */
  across?: number | null
  aspect: number | null
  /** The one that is enlarged. */
  large: number | null
  onLarge: (i: number | null) => void
  onTake: (i: number) => void
  children?: ReactNode
}

/** The cells of a proof sheet, as large as there is room: a click enlarges one, *Take* takes it. */
function Cells({ all, across = null, aspect, large, onLarge, onTake, children }: Props) {
  const { ref, width, height } = useElementSize()
  const laid = laidOut(large === null ? all.length : 1, { w: width, h: height }, aspect, large === null ? across : null)
  return (
    <div className={proofsCss.cells} ref={ref} style={{ gridTemplateColumns: `repeat(${laid.across}, 1fr)`, gap: GAP }}>
      {width > 0 &&
        all.map(
          (c, i) =>
            (large === null || large === i) && (
              <figure key={`${i} ${c.name}`}>
                <button aria-label={`${c.name}; click to ${large === null ? 'enlarge' : 'go back'}`} onClick={() => onLarge(large === null ? i : null)}>
                  <ProofPicture candidate={c.made} target={{ type: 'artwork' }} w={laid.w} h={laid.h} label={c.name} />
                </button>
                <figcaption>
                  <span>{c.name}</span>
                  <Button size="compact-xs" onClick={() => onTake(i)}>
                    Take
                  </Button>
                </figcaption>
              </figure>
            ),
        )}
      {children}
    </div>
  )
}

/** What small pictures show: all of it, or the look spot at 100 %. */
export function WholeOrSpot({ label }: { label: string }) {
  const act = useAct()
  const proofs = useApp((s) => s.prefs.proofs)
  return (
    <SegmentedControl
      size="xs"
      aria-label={label}
      value={proofs}
      onChange={(v) => act(setPrefs({ proofs: v as 'whole' | 'spot' }))}
      data={[
        { value: 'whole', label: 'Whole' },
        { value: 'spot', label: 'Look spot, 100 %' },
      ]}
    />
  )
}

interface SheetProps extends Omit<Props, 'aspect'> {
  artwork: Artwork
  /** What is laid out, for assistive technology; and as it stands in the bar. */
  name: string
  title: string
  /** What decides the cells. */
  bar?: ReactNode
}

/** A proof sheet over the whole bench; Escape goes back from an enlarged cell, then closes it. */
export function CellSheet({ artwork, name, title, bar, large, onLarge, ...cells }: SheetProps) {
  const act = useAct()
  const proofs = useApp((s) => s.prefs.proofs)
  useEffect(() => {
    const escape = (e: KeyboardEvent) => {
      if (e.key !== 'Escape') return
      if (large !== null) onLarge(null)
      else act(openProofSheet(null))
    }
    window.addEventListener('keydown', escape)
    return () => window.removeEventListener('keydown', escape)
  }, [act, large, onLarge])
  return (
    <section className={proofsCss.proofSheet} data-part="proof-sheet" role="dialog" aria-label={name}>
      <div className={proofsCss.bar}>
        <b>{title}</b>
        {bar}
        <span style={{ flex: 1 }} />
        <WholeOrSpot label="Cells show" />
        <Button variant="default" onClick={() => act(openProofSheet(null))}>
          Close
        </Button>
      </div>
      <Cells aspect={proofs === 'spot' ? null : artwork.sheet.w / artwork.sheet.h} large={large} onLarge={onLarge} {...cells} />
    </section>
  )
}
