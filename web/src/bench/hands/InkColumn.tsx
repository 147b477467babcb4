import { Button, FileButton, SegmentedControl, Text } from '@mantine/core'
import { changedStrokes, strokeCount, strokesOf, withDepth, withoutStrokes, type Artwork, type Depth } from '@nimble-quill/core'
import { useAct, useApp } from '../../store/store.ts'
import { command } from '../slice.ts'
import { ColourField } from '../tuning/widgets/ColourField.tsx'
import tuningCss from '../tuning/tuning.module.css'
import classes from './hands.module.css'
import { densified } from './ink-stroke.ts'
import { BreadthRow, ChoiceRow, ShareRow } from './rows.tsx'
import { setInk, type Hands } from './slice.ts'
import { useBringIn } from './use-bring-in.ts'
import { useInkLayer } from './use-ink.ts'

/** How much thinner and broader a click makes chosen strokes. */
const BY = 1.2

/** What the pen needs, while it is in hand. */
export function InkColumn({ artwork, layer: id, onHelp }: { artwork: Artwork; layer: string; onHelp: (t: string) => void }) {
  const act = useAct()
  const pen = useApp((s) => s.hands.ink)
  const { layer, ink, space, change } = useInkLayer(artwork, id)
  const bringIn = useBringIn(artwork, space.onInk, space.grows, change)
  const set = (to: Partial<Hands['ink']>) => act(setInk(to))
  const colour = layer.source.type === 'ink' ? layer.source.colour : '#000000'
  const n = pen.chosen.length
  const broader = (by: number) =>
    void change(by > 1 ? 'Broader strokes' : 'Thinner strokes', (from) =>
      changedStrokes(from, new Set(pen.chosen), ({ places }) => places.map((p) => ({ ...p, half: p.half * by }))),
    )
  const deepen = () =>
    void change('Thinner with depth', (from) =>
      changedStrokes(from, new Set(pen.chosen), ({ places }) => withDepth(densified(places, 24), pen.depth!, artwork.sheet, space.onSheet)),
    )
  return (
    <>
      <header>
        <h2>Ink</h2>
        <Text size="xs" c="var(--faint)" data-drawing-on>
          Drawing on: {layer.name}
          {ink ? `, ${strokeCount(ink)} ${strokeCount(ink) === 1 ? 'stroke' : 'strokes'}` : ''}
        </Text>
        <SegmentedControl
          mt={6}
          size="xs"
          fullWidth
          aria-label="What the pen does"
          data={[
            { value: 'draw', label: 'Draw' },
            { value: 'choose', label: 'Choose' },
            { value: 'erase', label: 'Rub out' },
          ]}
          value={pen.does}
          onChange={(v) => set({ does: v as Hands['ink']['does'] })}
        />
      </header>
      <div className={tuningCss.controls} data-part="controls">
        <div className={tuningCss.control} onPointerEnter={() => onHelp('The colour of all strokes of this layer.')}>
          <span className={tuningCss.label}>Colour</span>
          <ColourField
            label="Colour"
            value={colour}
            onChange={(c) => act(command({ command: { type: 'set-ink', layer: id, colour: c, what: 'Colour of the ink' }, gesture: `${id}.ink-colour` }))}
          />
        </div>
        {pen.does === 'draw' && (
          <>
            <BreadthRow
              breadth={pen.breadth}
              ppi={artwork.sheet.ppi}
              px={{ min: 0.5, step: 0.5, fallback: 4 }}
              mm={{ min: 0.05, step: 0.05, fallback: 0.6 }}
              most={400}
              help="How broad the pen draws where it is pressed firmly."
              onHelp={onHelp}
              onChange={(breadth) => set({ breadth })}
            />
            <ShareRow
              label="Pressure"
              help="How much of the breadth a pen’s pressure decides. A mouse or a finger draws the full breadth."
              value={pen.pressure}
              fallback={0.6}
              onHelp={onHelp}
              onChange={(pressure) => set({ pressure })}
            />
            <ShareRow
              label="Taper"
              help="How far strokes run out to a point at their ends."
              value={pen.taper}
              fallback={0.3}
              onHelp={onHelp}
              onChange={(taper) => set({ taper })}
            />
            <ShareRow
              label="Steadiness"
              help="How far tremors of the hand are smoothed away."
              value={pen.steadiness}
              fallback={0.4}
              onHelp={onHelp}
              onChange={(steadiness) => set({ steadiness })}
            />
            <DepthRows depth={pen.depth} onHelp={onHelp} onChange={(depth) => set({ depth })} />
          </>
        )}
        {pen.does === 'choose' && <DepthRows depth={pen.depth} onHelp={onHelp} onChange={(depth) => set({ depth })} />}
        {pen.does === 'choose' && (
          <div className={classes.fold}>
            <h3>{n === 0 ? 'No stroke is chosen' : n === 1 ? 'One stroke is chosen' : `${n} strokes are chosen`}</h3>
            <Text size="xs" c="var(--faint)">
              Click a stroke, with Shift for more, or draw a rectangle round several. Drag them, or move it with the arrow keys; one by itself is bent by its
              points.
            </Text>
            <div className={classes.line}>
              <Button variant="default" size="compact-xs" disabled={!ink} onClick={() => ink && set({ chosen: [...strokesOf(ink)].map((s) => s.id) })}>
                Choose all
              </Button>
              <Button variant="default" size="compact-xs" disabled={n === 0} onClick={() => broader(1 / BY)}>
                Thinner
              </Button>
              <Button variant="default" size="compact-xs" disabled={n === 0} onClick={() => broader(BY)}>
                Broader
              </Button>
              <Button variant="default" size="compact-xs" disabled={n === 0 || !pen.depth} onClick={deepen}>
                Thin with depth
              </Button>
              <Button
                variant="default"
                size="compact-xs"
                disabled={n === 0}
                onClick={() => {
                  const ids = new Set(pen.chosen)
                  set({ chosen: [] })
                  void change(ids.size > 1 ? 'Take out strokes' : 'Take out a stroke', (from) => withoutStrokes(from, ids))
                }}
              >
                Take out
              </Button>
            </div>
          </div>
        )}
        <div className={classes.fold}>
          <h3>From a file</h3>
          <div className={classes.line}>
            <FileButton accept=".svg,image/svg+xml" onChange={(file) => void bringIn(file)}>
              {(props) => (
                <Button
                  {...props}
                  variant="default"
                  size="compact-xs"
                  onPointerEnter={() => onHelp('The lines of an SVG file, at their size in millimetres from the sheet’s upper left corner.')}
                >
                  Bring in lines (SVG) …
                </Button>
              )}
            </FileButton>
          </div>
        </div>
        {pen.does === 'erase' && (
          <Text size="xs" c="var(--faint)">
            Touch strokes to rub them out whole.
          </Text>
        )}
      </div>
    </>
  )
}

/** How lines grow thinner towards what is far. */
function DepthRows({ depth, onHelp, onChange }: { depth: Depth | null; onHelp: (t: string) => void; onChange: (depth: Depth | null) => void }) {
  return (
    <>
      <ChoiceRow
        label="Thinner with depth"
        help="Lines are thick near and thin far: towards the side of the sheet that is said to be far."
        value={depth?.far ?? 'none'}
        ways={{ none: 'No', above: 'Far is above', below: 'Far is below', left: 'Far is left', right: 'Far is right' }}
        onHelp={onHelp}
        onChange={(far) => onChange(far === 'none' ? null : { far, left: depth?.left ?? 0.35 })}
      />
      {depth && (
        <ShareRow
          label="Left of it there"
          help="What of their breadth lines have at the far side."
          value={depth.left}
          fallback={0.35}
          onHelp={onHelp}
          onChange={(left) => onChange({ ...depth, left })}
        />
      )}
    </>
  )
}
