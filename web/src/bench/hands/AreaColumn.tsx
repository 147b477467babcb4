import { Button, Menu, SegmentedControl, Switch, Text, TextInput } from '@mantine/core'
import { allLayers, areaMask, freshId, stepAt, type AreaHow, type Artwork } from '@nimble-quill/core'
import { IconChevronDown } from '@tabler/icons-react'
import { useState } from 'react'
import { useAct, useApp } from '../../store/store.ts'
import { command } from '../slice.ts'
import tuningCss from '../tuning/tuning.module.css'
import { Field } from './Field.tsx'
import classes from './hands.module.css'
import { ChoiceRow, NumberRow } from './rows.tsx'
import { pixelsOf, setArea, type AreaBy, type Hands } from './slice.ts'
import { useArea } from './use-area.ts'

const BY: Record<AreaBy, { title: string; how: string }> = {
  rectangle: { title: 'Rectangle', how: 'Drag over the picture.' },
  ellipse: { title: 'Ellipse', how: 'Drag over the picture.' },
  free: { title: 'Free hand', how: 'Draw round it.' },
  corners: { title: 'Corners', how: 'Click its corners; the first one again, Enter or a double click closes it, Backspace takes one back.' },
  alike: { title: 'Likeness', how: 'Click what it is like.' },
}
/** How far an edge can be rounded, moved and softened, pixels: as far as what does it reaches. */
const REACH = 256
const MM_STEP = 0.1

/** What the hand for areas needs: how one is taken, what is done to its edge, where it goes, and those that are kept. */
export function AreaColumn({ artwork, onHelp }: { artwork: Artwork; onHelp: (t: string) => void }) {
  const act = useAct()
  const hand = useApp((s) => s.hands.area)
  const unit = useApp((s) => s.hands.place.unit)
  const { take, alike, order, letGo } = useArea()
  const [name, setName] = useState('')
  const [box, setBox] = useState({ x: 0, y: 0, w: 0, h: 0 })
  const set = (to: Partial<Hands['area']>) => act(setArea(to))
  const { like, edge } = hand
  const { ppi, x, y, w, h } = artwork.sheet
  const mm = ppi / 25.4
  const most = Math.floor((REACH / mm) * 10) / 10
  const help = (text: string) => ({ onPointerEnter: () => onHelp(text), onFocus: () => onHelp(text) })
  const tuneLike = (to: Partial<Hands['area']['like']>) => {
    set({ like: { ...like, ...to } })
    void alike({ x: 0, y: 0 }, true)
  }
  const layers = [...allLayers(artwork.layers)].reverse()
  const has = artwork.area != null
  const one = unit === '%' ? 1 : pixelsOf(unit, ppi)
  const size = box.w > 0 ? box : { x: x + Math.round(w / 4), y: y + Math.round(h / 4), w: Math.round(w / 2), h: Math.round(h / 2) }
  const suffix = unit === '%' ? ' px' : ` ${unit}`
  const number = (axis: 'x' | 'y' | 'w' | 'h', label: string) => (
    <Field
      label={label}
      suffix={suffix}
      value={size[axis] / one}
      onTake={(v) => setBox({ ...size, [axis]: axis === 'w' || axis === 'h' ? Math.max(1, v * one) : v * one })}
    />
  )
  return (
    <>
      <header>
        <h2>Area</h2>
        <Text size="xs" c="var(--faint)" data-area-says>
          {has ? 'Painting, filling and new steps act within it.' : 'There is none: hands and steps act everywhere.'}
        </Text>
        <SegmentedControl
          mt={6}
          size="xs"
          fullWidth
          aria-label="How it goes with the area there is"
          data={[
            { value: 'instead', label: 'Instead' },
            { value: 'add', label: 'Add' },
            { value: 'away', label: 'Take away' },
            { value: 'share', label: 'Share' },
          ]}
          value={hand.how}
          onChange={(v) => set({ how: v as AreaHow })}
          {...help('What is taken stands instead of the area, joins it, is taken away from it, or leaves what both share. T goes from one to the next.')}
        />
      </header>
      <div className={tuningCss.controls} data-part="controls">
        <ChoiceRow
          label="Take by"
          help="The shape that is drawn, or all that is like the place that is clicked."
          value={hand.by}
          ways={Object.fromEntries(Object.entries(BY).map(([k, v]) => [k, v.title])) as Record<AreaBy, string>}
          onHelp={onHelp}
          onChange={(by) => set({ by })}
        />
        <Text size="xs" c="var(--faint)">
          {BY[hand.by].how}
        </Text>
        {hand.by === 'alike' && (
          <>
            <div className={tuningCss.control} {...help('By colour, all that looks like it; by tone, all that is as light, whatever its colour.')}>
              <span className={tuningCss.label}>Like in</span>
              <SegmentedControl
                size="xs"
                aria-label="Like in"
                data={[
                  { value: 'colour', label: 'Colour' },
                  { value: 'tone', label: 'Tone' },
                ]}
                value={like.by}
                onChange={(v) => tuneLike({ by: v as 'colour' | 'tone' })}
              />
            </div>
            <NumberRow
              key={like.by}
              label="How unlike"
              help={
                like.by === 'colour'
                  ? 'How far a colour may be from the one that was clicked (ΔE, CIE 1976): about 2 is hardly seen.'
                  : 'How many tones of 255 lighter or darker than what was clicked.'
              }
              value={like[like.by]}
              min={0}
              max={like.by === 'colour' ? 100 : 255}
              step={like.by === 'colour' ? 0.5 : 1}
              fallback={like.by === 'colour' ? 12 : 20}
              suffix={like.by === 'colour' ? ' ΔE' : ' tones'}
              onHelp={onHelp}
              onChange={(v) => tuneLike({ [like.by]: v })}
            />
            <Switch
              size="xs"
              label="Only where it hangs together"
              checked={like.together}
              onChange={(e) => tuneLike({ together: e.currentTarget.checked })}
              {...help('It spreads from what was clicked; or it is taken everywhere in the picture at once.')}
            />
            <Switch
              size="xs"
              label="Stops at edges"
              disabled={!like.together}
              checked={like.together && like.edges}
              onChange={(e) => tuneLike({ edges: e.currentTarget.checked })}
              {...help('It does not go over edges of the picture, even where what lies beyond is like enough.')}
            />
            <div className={classes.line}>
              <Button variant="default" size="compact-xs" onClick={() => void alike(artwork.lookSpot)}>
                Like the look spot
              </Button>
            </div>
          </>
        )}
        {(hand.by === 'rectangle' || hand.by === 'ellipse') && (
          <>
            <div className={classes.pair}>
              {number('x', 'From the left')}
              {number('y', 'From the top')}
              {number('w', 'Width')}
              {number('h', 'Height')}
            </div>
            <div className={classes.line}>
              <Button
                variant="default"
                size="compact-xs"
                onClick={() =>
                  void take({ type: hand.by as 'rectangle' | 'ellipse', ...size }, `Area, ${hand.by === 'ellipse' ? 'an ellipse' : 'a rectangle'}`)
                }
              >
                Take it by these numbers
              </Button>
            </div>
          </>
        )}
        <div className={classes.line}>
          <Button variant="default" size="compact-xs" onClick={() => void take({ type: 'all' }, 'Area, the whole sheet')}>
            All of the sheet
          </Button>
          <Button variant="default" size="compact-xs" disabled={!has} onClick={() => void order({ type: 'turn-round' }, 'Turn the area round')}>
            Turn round
          </Button>
          <Button variant="default" size="compact-xs" disabled={!has} onClick={letGo}>
            Let go
          </Button>
          <Menu position="bottom-start">
            <Menu.Target>
              <Button variant="default" size="compact-xs" rightSection={<IconChevronDown size={12} />}>
                Take it from …
              </Button>
            </Menu.Target>
            <Menu.Dropdown mah={400} style={{ overflowY: 'auto' }}>
              {layers.map((l) => (
                <div key={l.id}>
                  <Menu.Label>{l.name}</Menu.Label>
                  <Menu.Item onClick={() => void take({ type: 'cover', layer: l.id }, `Area, what ${l.name} covers`)}>What it covers</Menu.Item>
                  {l.mask && (
                    <Menu.Item onClick={() => void take({ type: 'mask', layer: l.id, step: null }, `Area from the mask of ${l.name}`)}>Its mask</Menu.Item>
                  )}
                  {l.chain
                    .filter((s) => s.mask)
                    .map((s) => (
                      <Menu.Item
                        key={s.id}
                        onClick={() => void take({ type: 'mask', layer: l.id, step: s.id }, `Area from the mask of ${stepAt(s.step, s.version).title}`)}
                      >
                        Mask of {stepAt(s.step, s.version).title}
                      </Menu.Item>
                    ))}
                </div>
              ))}
            </Menu.Dropdown>
          </Menu>
        </div>
        <div className={classes.fold}>
          <h3>Its edge</h3>
          <NumberRow
            label="Rounded"
            help="Corners that stick out and that cut in become arcs of this radius."
            value={edge.round}
            min={0}
            max={most}
            step={MM_STEP}
            suffix=" mm"
            onHelp={onHelp}
            onChange={(round) => set({ edge: { ...edge, round } })}
          />
          <NumberRow
            label="Moved"
            help="Outwards, or inwards below 0."
            value={edge.move}
            min={-most}
            max={most}
            step={MM_STEP}
            suffix=" mm"
            onHelp={onHelp}
            onChange={(move) => set({ edge: { ...edge, move } })}
          />
          <NumberRow
            label="Softened"
            help="The deviation of the blur that softens it: most of it lies within twice as far to either side."
            value={edge.soften}
            min={0}
            max={most}
            step={MM_STEP}
            suffix=" mm"
            onHelp={onHelp}
            onChange={(soften) => set({ edge: { ...edge, soften } })}
          />
          <div className={classes.line}>
            <Button
              variant="default"
              size="compact-xs"
              disabled={!has || (edge.round === 0 && edge.move === 0 && edge.soften === 0)}
              onClick={() => void order({ type: 'edge', round: edge.round * mm, move: edge.move * mm, soften: edge.soften * mm }, edgeWords(edge))}
            >
              Change its edge
            </Button>
          </div>
        </div>
        <div className={classes.fold}>
          <h3>Use it</h3>
          <div className={classes.line}>
            <Menu position="bottom-start">
              <Menu.Target>
                <Button variant="default" size="compact-xs" disabled={!has} rightSection={<IconChevronDown size={12} />}>
                  As the mask of …
                </Button>
              </Menu.Target>
              <Menu.Dropdown mah={400} style={{ overflowY: 'auto' }}>
                {layers.map((l) => {
                  const mask = areaMask(artwork, l.id)
                  const to = (step: string | null) => act(command({ command: { type: 'set-mask', layer: l.id, step, mask } }))
                  return (
                    <div key={l.id}>
                      <Menu.Label>{l.name}</Menu.Label>
                      {mask ? (
                        <>
                          <Menu.Item onClick={() => to(null)}>{l.mask ? 'The layer, instead of its mask' : 'The layer'}</Menu.Item>
                          {l.chain.map((s) => (
                            <Menu.Item key={s.id} onClick={() => to(s.id)}>
                              {stepAt(s.step, s.version).title}
                              {s.mask ? ', instead of its mask' : ''}
                            </Menu.Item>
                          ))}
                        </>
                      ) : (
                        <Menu.Item disabled>Its group is laid elsewhere</Menu.Item>
                      )}
                    </div>
                  )
                })}
              </Menu.Dropdown>
            </Menu>
          </div>
        </div>
        <div className={classes.fold}>
          <h3>Kept areas</h3>
          <div className={classes.line}>
            <TextInput
              size="xs"
              flex={1}
              aria-label="Name for this area"
              placeholder="Name"
              maxLength={120}
              value={name}
              onChange={(e) => setName(e.currentTarget.value)}
            />
            <Button
              variant="default"
              size="compact-xs"
              disabled={!has || !name.trim()}
              onClick={() => {
                const kept = { id: freshId(), name: name.trim(), plane: artwork.area! }
                act(command({ command: { type: 'set-areas', areas: [...artwork.areas, kept], what: `Keep the area “${kept.name}”` } }))
                setName('')
              }}
            >
              Keep it
            </Button>
          </div>
          {artwork.areas.map((a) => (
            <div key={a.id} className={classes.line} data-kept-area={a.name}>
              <Text size="sm" flex={1} truncate>
                {a.name}
              </Text>
              <Button
                variant="default"
                size="compact-xs"
                aria-label={`Take the area ${a.name}`}
                onClick={() => a.plane && void take({ type: 'kept', plane: a.plane.index }, `Area “${a.name}”`)}
              >
                Take
              </Button>
              <Button
                variant="default"
                size="compact-xs"
                aria-label={`Forget the area ${a.name}`}
                onClick={() =>
                  act(command({ command: { type: 'set-areas', areas: artwork.areas.filter((b) => b.id !== a.id), what: `Forget the area “${a.name}”` } }))
                }
              >
                Forget
              </Button>
            </div>
          ))}
        </div>
      </div>
    </>
  )
}

/** What was done to an edge, for the history. */
function edgeWords({ round, move, soften }: Hands['area']['edge']): string {
  const did = [round && 'rounded', move && (move > 0 ? 'moved outwards' : 'moved inwards'), soften && 'softened'].filter(Boolean)
  return `Edge of the area ${did.join(', ')}`
}
