import { Button, SegmentedControl, Select, Text } from '@mantine/core'
import {
  BREADTH,
  BRUSH_VALUES,
  defaultBrush,
  isStudyPart,
  locate,
  locateStep,
  studyWords,
  type Artwork,
  type Brush,
  type Layer,
  type Symmetry,
} from '@nimble-quill/core'
import { useState, type ReactNode } from 'react'
import { useAct, useApp } from '../../store/store.ts'
import { command } from '../slice.ts'
import { KeptMenu } from '../tuning/KeptValues.tsx'
import { NumberControl } from '../tuning/NumberControl.tsx'
import { ColourField } from '../tuning/widgets/ColourField.tsx'
import { SpanEditor } from '../tuning/widgets/SpanEditor.tsx'
import classes from './hands.module.css'
import { MaskTuning } from './MaskTuning.tsx'
import { BreadthRow, ChoiceRow, NumberRow, ShareRow } from './rows.tsx'
import { doingsOf } from './laying.ts'
import { PinControls } from './PinControls.tsx'
import { setBrush, setHands, takeColour, type Showing } from './slice.ts'
import { targetName } from './targets.ts'
import { TipChoice } from './TipChoice.tsx'
import { useFill } from './use-fill.ts'
import tuningCss from '../tuning/tuning.module.css'

const SIDES = [1, 3, 5, 11, 31, 101]

/** What the brush needs, while it is in hand. */
export function PaintColumn({ artwork, onHelp }: { artwork: Artwork; onHelp: (t: string) => void }) {
  const act = useAct()
  const { on, doing, showing, brush, colour, tray, dropper } = useApp((s) => s.hands)
  const fill = useFill()
  if (!on) return null
  const { layer } = locate(artwork.layers as Layer[], on.layer)
  const mask = on.part === 'mask' ? (on.step === null ? layer.mask : locateStep(layer, on.step).step.mask) : null
  const studied = isStudyPart(on.part) ? on.part : null
  const doings = doingsOf(on.part)
  return (
    <>
      <header>
        <div style={{ display: 'flex', alignItems: 'center' }}>
          <h2 style={{ flex: 1 }}>Paint</h2>
          <KeptMenu
            of={BRUSH_VALUES}
            words={{ menu: 'Brushes of your own', name: 'Name for this brush', these: 'The brush is' }}
            first={defaultBrush}
            present={brush}
            onTake={(params) => act(setBrush(params as Brush))}
          />
        </div>
        <Text size="xs" c="var(--faint)" data-painting-on>
          Painting on: {targetName(artwork, on)}
          {artwork.area && ', within the area'}
        </Text>
        <SegmentedControl
          mt={6}
          size="xs"
          fullWidth
          aria-label="What the brush does"
          data={doings}
          value={doing}
          onChange={(v) => act(setHands({ doing: v as typeof doing }))}
        />
      </header>
      <div className={tuningCss.controls} data-part="controls">
        {mask && (
          <div
            className={tuningCss.control}
            onPointerEnter={() => onHelp('The picture; the mask over it, coloured where it does not act; or the mask alone, white where it acts.')}
          >
            <span className={tuningCss.label}>Show</span>
            <SegmentedControl
              size="xs"
              aria-label="Show the mask"
              data={[
                { value: 'picture', label: 'Picture' },
                { value: 'overlay', label: 'Overlay' },
                { value: 'alone', label: 'Alone' },
              ]}
              value={showing}
              onChange={(v) => act(setHands({ showing: v as Showing }))}
            />
          </div>
        )}
        {studied && (
          <div className={tuningCss.control} onPointerEnter={() => onHelp(studyWords[studied].help)}>
            <span className={tuningCss.label}>Show</span>
            <SegmentedControl
              size="xs"
              aria-label="Show what was found"
              data={[
                { value: 'overlay', label: studyWords[studied].title },
                { value: 'picture', label: 'Picture' },
              ]}
              value={showing === 'alone' ? 'overlay' : showing}
              onChange={(v) => act(setHands({ showing: v as Showing }))}
            />
          </div>
        )}
        {studied === 'detail' && <PinControls artwork={artwork} onHelp={onHelp} />}
        {on.part === 'paint' && (
          <>
            <div className={tuningCss.control} onPointerEnter={() => onHelp('What is laid. Hold C to pick it from the picture.')}>
              <span className={tuningCss.label}>Colour</span>
              <ColourField label="Colour" value={colour} onChange={(c) => act(setHands({ colour: c }))} />
            </div>
            {tray.length > 0 && (
              <div className={classes.tray} role="group" aria-label="Colours picked so far">
                {tray.map((c) => (
                  <button key={c} style={{ background: c }} aria-label={c} aria-pressed={c === colour} onClick={() => act(takeColour(c))} />
                ))}
              </div>
            )}
            <div className={tuningCss.control} onPointerEnter={() => onHelp('What the dropper takes the mean of: hold C and click the picture.')}>
              <span className={tuningCss.label}>Dropper</span>
              <span style={{ display: 'flex', gap: 4 }}>
                <Select
                  w={82}
                  aria-label="Sample of the dropper"
                  data={SIDES.map((n) => ({ value: String(n), label: n === 1 ? '1 px' : `${n} × ${n}` }))}
                  value={String(dropper.side)}
                  onChange={(v) => act(setHands({ dropper: { ...dropper, side: Number(v) } }))}
                />
                <Select
                  w={82}
                  aria-label="Dropper takes"
                  data={[
                    { value: 'all', label: 'of all' },
                    { value: 'layer', label: 'of layer' },
                  ]}
                  value={dropper.of}
                  onChange={(v) => act(setHands({ dropper: { ...dropper, of: v as 'all' | 'layer' } }))}
                />
              </span>
            </div>
          </>
        )}
        <BrushControls brush={brush} ppi={artwork.sheet.ppi} onHelp={onHelp} />
        <SymmetryControls artwork={artwork} onHelp={onHelp} />
        <div className={classes.fold}>
          <h3>All at once</h3>
          <div className={classes.line}>
            {studied ? (
              <Button
                variant="default"
                size="compact-xs"
                disabled={!layer.study?.[studied]}
                onClick={() => act(command({ command: { type: 'paint', at: on, plane: null, what: `${studyWords[studied].title}: all as found` } }))}
              >
                All as found
              </Button>
            ) : (
              <Button variant="default" size="compact-xs" onClick={() => void fill(on, 'fill')}>
                {on.part === 'light' ? 'All neutral' : on.part === 'paint' ? 'Fill with the colour' : 'Let all through'}
              </Button>
            )}
            {on.part !== 'light' && !studied && (
              <Button variant="default" size="compact-xs" onClick={() => void fill(on, 'clear')}>
                {on.part === 'paint' ? 'Clear' : 'Take all away'}
              </Button>
            )}
          </div>
        </div>
        {mask && <MaskTuning artwork={artwork} layer={layer} step={on.step} mask={mask} onHelp={onHelp} />}
        {on.part === 'light' && layer.lightMap && (
          <div className={classes.fold}>
            <h3>Light map</h3>
            <ShareRow
              label="Strength"
              help="How much of what was dodged and burnt acts."
              value={layer.lightMap.strength}
              onHelp={onHelp}
              onChange={(strength, gesture) =>
                act(
                  command({
                    command: { type: 'set-light-map', layer: layer.id, lightMap: { ...layer.lightMap!, strength } },
                    ...(gesture ? { gesture: `${layer.id}.light.${gesture}` } : {}),
                  }),
                )
              }
            />
            <SpanEditor
              span={layer.lightMap.span}
              onHelp={onHelp}
              onChange={(span, gesture) =>
                act(
                  command({
                    command: { type: 'set-light-map', layer: layer.id, lightMap: { ...layer.lightMap!, span } },
                    ...(gesture ? { gesture: `${layer.id}.light-span.${gesture}` } : {}),
                  }),
                )
              }
            />
            <div className={classes.line}>
              <Button variant="default" size="compact-xs" onClick={() => act(command({ command: { type: 'set-light-map', layer: layer.id, lightMap: null } }))}>
                Take the light map off
              </Button>
            </div>
          </div>
        )}
      </div>
    </>
  )
}

type Shares = 'edge' | 'cover' | 'most' | 'pickUp' | 'hairs' | 'tooth' | 'regularity'
type ShareOf = [name: Shares, label: string, help: string, ends?: [string, string]]
const SHARES: ShareOf[] = [
  ['edge', 'Edge', 'How firm the rim is: soft falls off from the middle, firm covers to the rim.', ['soft', 'firm']],
  ['cover', 'Cover of a dab', 'What one dab lays of what is still uncovered; a stroke is many dabs over each other.'],
  ['most', 'Cover at most', 'What one stroke reaches, however often it goes over a place.'],
]
const MORE: ShareOf[] = [
  ['pickUp', 'Picks up', 'How much of the colour of the paint it goes over the brush takes with it; at 100 % it only smears. On layers of paint.'],
  ['hairs', 'Hairs and grain', 'How much the face of the tip shows: bristles, pores, drops.'],
  ['tooth', 'Caught by the ground', 'How much the heights of a rough ground hold the brush back.'],
  ['regularity', 'Regularity', 'Dabs of one size along the line, or straying and uneven.', ['uneven', 'even']],
]

/** What every brush is decided by. */
export function BrushControls({ brush, ppi, onHelp }: { brush: Brush; ppi: number; onHelp: (t: string) => void }) {
  const act = useAct()
  const [more, setMore] = useState(false)
  const set = (change: Partial<Brush>) => act(setBrush(change))
  const pressure = (change: Partial<Brush['pressure']>) => set({ pressure: { ...brush.pressure, ...change } })
  const shares = (rows: readonly ShareOf[]): ReactNode =>
    rows.map(([name, label, help, ends]) => (
      <NumberControl
        key={name}
        label={label}
        help={help}
        value={brush[name] * 100}
        min={name === 'cover' ? 1 : 0}
        max={100}
        step={1}
        fallback={defaultBrush[name] * 100}
        feel={name === 'cover' ? 'log' : 'even'}
        suffix=" %"
        onHelp={onHelp}
        onChange={(v) => set({ [name]: v / 100 })}
        {...(ends ? { ends } : {})}
      />
    ))
  return (
    <>
      <TipChoice brush={brush} onChange={(tip) => set({ tip })} onHelp={onHelp} />
      <BreadthRow
        breadth={brush.breadth}
        ppi={ppi}
        px={{ min: BREADTH.min, step: 1, fallback: 120 }}
        mm={{ min: 0.1, step: 0.1, fallback: 5 }}
        most={BREADTH.max}
        help="How broad the brush is. Comma and full stop make it thinner and broader."
        onHelp={onHelp}
        onChange={(breadth) => set({ breadth })}
      />
      {shares(SHARES)}
      <NumberRow
        label="Steadiness"
        help="The brush follows the pen on a string, so many breadths long: small tremors do not reach it."
        value={brush.steadiness}
        min={0}
        max={4}
        step={0.1}
        onHelp={onHelp}
        onChange={(steadiness) => set({ steadiness })}
      />
      <Button
        variant="subtle"
        color="gray"
        size="compact-xs"
        aria-expanded={more}
        onClick={() => setMore(!more)}
        style={{ alignSelf: 'flex-start', flex: 'none' }}
      >
        {more ? 'Fewer controls' : 'More of the brush'}
      </Button>
      {more && (
        <>
          {shares(MORE)}
          <NumberRow
            label="Dry after"
            help="Breadths until the brush has nothing more to give; 0: it never dries."
            value={brush.dry}
            min={0}
            max={200}
            onHelp={onHelp}
            onChange={(dry) => set({ dry })}
          />
          <ShareRow
            label="Pressure: breadth"
            help="How much of the breadth the pen’s pressure decides."
            value={brush.pressure.breadth}
            fallback={0}
            onHelp={onHelp}
            onChange={(breadth) => pressure({ breadth })}
          />
          <ShareRow
            label="Pressure: cover"
            help="How much of the cover the pen’s pressure decides."
            value={brush.pressure.cover}
            fallback={0.5}
            onHelp={onHelp}
            onChange={(cover) => pressure({ cover })}
          />
          <ChoiceRow
            label="Response"
            help="How pressure is taken: gently, a light hand goes far; firmly, only a heavy one does."
            value={brush.pressure.response}
            ways={{ gentle: 'Gentle', even: 'Even', firm: 'Firm' }}
            onHelp={onHelp}
            onChange={(response) => pressure({ response })}
          />
          <ChoiceRow
            label="Tip lies"
            help="Across the way it goes, as the pen is tilted, or at an angle."
            value={brush.turn}
            ways={{ way: 'By the way', tilt: 'By the tilt', fixed: 'At an angle' }}
            onHelp={onHelp}
            onChange={(turn) => set({ turn })}
          />
          {brush.turn !== 'way' && (
            <NumberRow
              label="Angle"
              help="Of the tip, counter-clockwise from level."
              value={brush.angle}
              min={-180}
              max={180}
              suffix="°"
              onHelp={onHelp}
              onChange={(angle) => set({ angle })}
            />
          )}
        </>
      )}
    </>
  )
}

function SymmetryControls({ artwork, onHelp }: { artwork: Artwork; onHelp: (t: string) => void }) {
  const act = useAct()
  const symmetry = useApp((s) => s.hands.symmetry)
  const { x, y, w, h } = artwork.sheet
  const middle = symmetry.type === 'none' ? { x: x + w / 2, y: y + h / 2 } : { x: symmetry.x, y: symmetry.y }
  const set = (to: Symmetry) => act(setHands({ symmetry: to }))
  return (
    <>
      <ChoiceRow
        label="Symmetry"
        help="Strokes are repeated: mirrored in a line, or turned about a point."
        value={symmetry.type}
        ways={{ none: 'None', mirror: 'Mirrored', round: 'All round' }}
        onHelp={onHelp}
        onChange={(type) => set(type === 'mirror' ? { type, ...middle, angle: 90 } : type === 'round' ? { type, ...middle, n: 6 } : { type })}
      />
      {symmetry.type !== 'none' && (
        <>
          <NumberRow
            label="Middle, across"
            help="Where the line or the point lies, of the sheet’s width."
            value={((symmetry.x - x) / w) * 100}
            min={0}
            max={100}
            step={0.1}
            fallback={50}
            suffix=" %"
            onHelp={onHelp}
            onChange={(v) => set({ ...symmetry, x: x + (v / 100) * w })}
          />
          <NumberRow
            label="Middle, down"
            help="Where the line or the point lies, of the sheet’s height."
            value={((symmetry.y - y) / h) * 100}
            min={0}
            max={100}
            step={0.1}
            fallback={50}
            suffix=" %"
            onHelp={onHelp}
            onChange={(v) => set({ ...symmetry, y: y + (v / 100) * h })}
          />
          {symmetry.type === 'mirror' ? (
            <NumberRow
              label="Axis"
              help="Angle of the line, counter-clockwise from level."
              value={symmetry.angle}
              min={0}
              max={180}
              fallback={90}
              suffix="°"
              onHelp={onHelp}
              onChange={(angle) => set({ ...symmetry, angle })}
            />
          ) : (
            <NumberRow
              label="Times"
              help="How often a stroke lies round the point."
              value={symmetry.n}
              min={2}
              max={24}
              fallback={6}
              onHelp={onHelp}
              onChange={(n) => set({ ...symmetry, n: Math.round(n) })}
            />
          )}
        </>
      )}
    </>
  )
}
