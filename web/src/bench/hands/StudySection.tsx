import { studyWords, type Artwork, type StudyPart } from '@nimble-quill/core'
import { useAct } from '../../store/store.ts'
import { ProofPicture, proofSize } from '../proofs/Proof.tsx'
import classes from './hands.module.css'
import { paintOn } from './slice.ts'

interface Props {
  artwork: Artwork
  layer: string
  /** What of the study the chosen step goes by. */
  parts: readonly StudyPart[]
  /** Those that hands have painted over. */
  painted: readonly StudyPart[]
  onHelp: (t: string) => void
}

/** What a step goes by, found in its photo: shown small, each to be painted over by hand. */
export function StudySection({ artwork, layer, parts, painted, onHelp }: Props) {
  const act = useAct()
  const shape = proofSize(artwork.sheet, 80, 'whole')
  // three in a row, whatever the sheet's shape
  const by = Math.min(1, 78 / shape.w)
  const size = { w: Math.round(shape.w * by), h: Math.round(shape.h * by) }
  return (
    <div className={classes.fold} role="group" aria-label="What it goes by">
      <h3>What it goes by</h3>
      <div className={classes.study}>
        {parts.map((part) => {
          const { title, help } = studyWords[part]
          const by = painted.includes(part)
          return (
            <button
              key={part}
              data-study={part}
              aria-label={`${title}${by ? ', changed by hand' : ''}: show it and paint on it`}
              onClick={() => act(paintOn({ layer, step: null, part }))}
              onPointerEnter={() => onHelp(`${help} Click to see it large and to change it by hand.`)}
            >
              <ProofPicture target={{ type: 'study', layer, part }} {...size} label={`${title}, as found`} whole />
              <span>
                {title}
                {by && <i aria-hidden title="Changed by hand" />}
              </span>
            </button>
          )
        })}
      </div>
    </div>
  )
}
