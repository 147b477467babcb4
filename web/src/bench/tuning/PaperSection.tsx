import { Select, Switch } from '@mantine/core'
import { convertLength, papers, type Artwork, type Layer, type Length, type PaperSource } from '@nimble-quill/core'
import { useAct } from '../../store/store.ts'
import { command } from '../slice.ts'
import { UnitOf } from '../hands/rows.tsx'
import { NumberControl } from './NumberControl.tsx'
import tuningCss from './tuning.module.css'
import { ColourField } from './widgets/ColourField.tsx'
import { PictureField } from './widgets/PictureField.tsx'

const PICTURE = 'picture'
const UNITS = ['px', 'mm', '%'] as const

/** What a paper layer is: one of the papers that ship, or a picture of one; how wide it lies, and its colour. */
export function PaperSection({ artwork, layer, onHelp }: { artwork: Artwork; layer: Layer; onHelp: (t: string) => void }) {
  const act = useAct()
  const { source } = layer
  if (source.type !== 'paper') return null
  const put = (change: Partial<Omit<PaperSource, 'type'>>, gesture?: string) =>
    act(command({ command: { type: 'set-paper', layer: layer.id, change }, ...(gesture ? { gesture: `${layer.id}.paper.${gesture}` } : {}) }))
  const { paper, width, colour } = source
  const named = typeof paper === 'string' ? papers[paper as keyof typeof papers] : null
  const scale = { reference: artwork.reference, ppi: artwork.sheet.ppi }
  const label = named ? 'Grain' : 'Picture width'
  const [min, max] = named ? [0.05, 40] : [2, 4000]
  return (
    <>
      <div
        className={tuningCss.control}
        onPointerEnter={() => onHelp('A paper with a surface that the lamp lights, or a picture of one, mirrored at its borders so that no seam repeats.')}
      >
        <label className={tuningCss.label} htmlFor="paper-kind">
          Paper
        </label>
        <Select
          id="paper-kind"
          w={152}
          data={[
            ...Object.entries(papers).map(([value, { title }]) => ({ value, label: title })),
            ...(named ? [] : [{ value: PICTURE, label: 'From a picture' }]),
          ]}
          value={typeof paper === 'string' ? paper : PICTURE}
          onChange={(v) => v && v !== PICTURE && put({ paper: v, width: { value: papers[v as keyof typeof papers].pitch, unit: 'mm' } })}
        />
      </div>
      {typeof paper !== 'string' && (
        <div className={tuningCss.control}>
          <span className={tuningCss.label}>Picture</span>
          <PictureField label="Picture of the paper" value={paper} onChange={(picture) => picture && put({ paper: picture })} />
        </div>
      )}
      <NumberControl
        label={label}
        help={
          named
            ? 'How coarse its surface is: from hollow to hollow, rib to rib, thread to thread.'
            : 'How wide the picture lies on the sheet; beyond, it goes on as in mirrors.'
        }
        value={width.value}
        min={min}
        max={max}
        step={named ? 0.05 : 1}
        fallback={named ? named.pitch : 200}
        feel="log"
        suffix=""
        onHelp={onHelp}
        onChange={(value, gesture) => put({ width: { ...width, value } }, gesture && `width.${gesture}`)}
        after={
          <UnitOf label={label} unit={width.unit} units={UNITS} onUnit={(unit: Length['unit']) => put({ width: tidy(convertLength(width, unit, scale)) })} />
        }
      />
      <div className={tuningCss.control} onPointerEnter={() => onHelp('A colour of its own instead of the paper’s; a picture is tinted with it.')}>
        <span className={tuningCss.label}>{named ? 'Own colour' : 'Tinted'}</span>
        <Switch
          size="xs"
          aria-label={named ? 'Own colour' : 'Tinted'}
          checked={colour !== null}
          onChange={(e) => put({ colour: e.currentTarget.checked ? (named?.colour ?? '#e8dcc4') : null })}
        />
      </div>
      {colour !== null && (
        <div className={tuningCss.control}>
          <span className={tuningCss.label}>Colour</span>
          <ColourField label="Colour of the paper" value={colour} onChange={(c, gesture) => put({ colour: c }, gesture && `colour.${gesture}`)} />
        </div>
      )}
    </>
  )
}

const tidy = (l: Length): Length => ({ ...l, value: Number(l.value.toPrecision(4)) })
