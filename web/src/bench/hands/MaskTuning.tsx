import { Button, Menu, SegmentedControl, Switch } from '@mantine/core'
import { allLayers, stepAt, type Artwork, type Layer, type Length, type Mask, type MaskChange } from '@nimble-quill/core'
import { IconChevronDown } from '@tabler/icons-react'
import { useAct } from '../../store/store.ts'
import { command } from '../slice.ts'
import { NumberControl } from '../tuning/NumberControl.tsx'
import classes from './hands.module.css'
import { ShareRow, UnitOf } from './rows.tsx'
import { useFill } from './use-fill.ts'
import tuningCss from '../tuning/tuning.module.css'

/** Tones that a mask is made from, by name: parts of the scale. */
const TONES = [
  { name: 'all tones, the lighter the more', span: null },
  { name: 'lights', span: { low: 0.7, high: 1, softLow: 0.2, softHigh: 0 } },
  { name: 'middle tones', span: { low: 0.4, high: 0.6, softLow: 0.2, softHigh: 0.2 } },
  { name: 'darks', span: { low: 0, high: 0.3, softLow: 0, softHigh: 0.2 } },
]
const UNITS: Length['unit'][] = ['px', '%', 'mm']

/** What of a mask is decided besides painting it. */
export function MaskTuning({
  artwork,
  layer,
  step,
  mask,
  onHelp,
}: {
  artwork: Artwork
  layer: Layer
  step: string | null
  mask: NonNullable<Mask>
  onHelp: (t: string) => void
}) {
  const act = useAct()
  const fill = useFill()
  const at = { layer: layer.id, step, part: 'mask' as const }
  const tune = (change: MaskChange, gesture?: string) =>
    act(command({ command: { type: 'tune-mask', layer: layer.id, step, change }, ...(gesture ? { gesture: `${layer.id}.${step}.mask.${gesture}` } : {}) }))
  const use = step === null ? null : layer.chain.find((s) => s.id === step)
  const thins = use ? stepAt(use.step, use.version).marks === true : false
  const others = [...allLayers(artwork.layers)].filter((l) => l.id !== layer.id)
  const { edge } = mask
  return (
    <div className={classes.fold}>
      <h3>Mask</h3>
      {!mask.plane && (
        <div className={tuningCss.control} onPointerEnter={() => onHelp('What there is where nothing was painted.')}>
          <span className={tuningCss.label}>Starts</span>
          <SegmentedControl
            size="xs"
            aria-label="The mask starts"
            data={[
              { value: 'full', label: 'Full' },
              { value: 'empty', label: 'Empty' },
            ]}
            value={mask.start}
            onChange={(v) => tune({ start: v as 'full' | 'empty' })}
          />
        </div>
      )}
      <Switch
        size="xs"
        label="Turned round"
        checked={mask.turnedRound}
        onChange={(e) => tune({ turnedRound: e.currentTarget.checked })}
        onPointerEnter={() => onHelp('Acts where it would not, and the other way round.')}
      />
      <Switch
        size="xs"
        label="Rides with the layer"
        checked={!mask.stays}
        onChange={(e) => tune({ stays: !e.currentTarget.checked })}
        onPointerEnter={() => onHelp('Moved and turned with the layer; or it stays where it is on the sheet, and the layer moves under it.')}
      />
      {thins && (
        <Switch
          size="xs"
          label="Thins the marks"
          checked={mask.thins}
          onChange={(e) => tune({ thins: e.currentTarget.checked })}
          onPointerEnter={() => onHelp('Marks grow smaller where the mask is weak, instead of fading to grey.')}
        />
      )}
      <ShareRow
        label="Strength"
        help="Weakened, the mask lets more through where it holds back."
        value={mask.strength}
        onHelp={onHelp}
        onChange={(strength, gesture) => tune({ strength }, gesture && `strength.${gesture}`)}
      />
      <NumberControl
        label="Edge moved"
        help="Outwards, or inwards below 0."
        value={edge.move}
        min={-100}
        max={100}
        step={0.5}
        fallback={0}
        feel="even"
        suffix=""
        onHelp={onHelp}
        onChange={(move, gesture) => tune({ edge: { ...edge, move } }, gesture && `move.${gesture}`)}
        after={<UnitOf label="Edge moved" unit={edge.unit} units={UNITS} onUnit={(unit) => tune({ edge: { ...edge, unit } })} />}
      />
      <NumberControl
        label="Edge softened"
        help="The deviation of the blur that softens it."
        value={edge.soften.value}
        min={0}
        max={100}
        step={0.5}
        fallback={0}
        feel="even"
        suffix=""
        onHelp={onHelp}
        onChange={(value, gesture) => tune({ edge: { ...edge, soften: { ...edge.soften, value } } }, gesture && `soften.${gesture}`)}
        after={
          <UnitOf
            label="Edge softened"
            unit={edge.soften.unit}
            units={UNITS}
            onUnit={(unit) => tune({ edge: { ...edge, soften: { ...edge.soften, unit } } })}
          />
        }
      />
      <div className={classes.line}>
        <Menu position="bottom-start">
          <Menu.Target>
            <Button variant="default" size="compact-xs" rightSection={<IconChevronDown size={12} />}>
              Make it from …
            </Button>
          </Menu.Target>
          <Menu.Dropdown mah={400} style={{ overflowY: 'auto' }}>
            <Menu.Label>This layer’s picture</Menu.Label>
            {TONES.map(({ name, span }) => (
              <Menu.Item key={name} onClick={() => void fill(at, { type: 'picture', layer: layer.id, by: 'tones', span })}>
                Its {name}
              </Menu.Item>
            ))}
            <Menu.Item onClick={() => void fill(at, { type: 'picture', layer: layer.id, by: 'edges', span: null })}>Its edges</Menu.Item>
            {others.map((l) => (
              <div key={l.id}>
                <Menu.Label>{l.name}</Menu.Label>
                <Menu.Item onClick={() => void fill(at, { type: 'picture', layer: l.id, by: 'alpha', span: null })}>What it covers</Menu.Item>
                <Menu.Item onClick={() => tune({ live: { layer: l.id, by: 'alpha' } })}>What it covers, live</Menu.Item>
                <Menu.Item onClick={() => tune({ live: { layer: l.id, by: 'tones' } })}>Its tones, live</Menu.Item>
                {l.mask && (
                  <Menu.Item onClick={() => act(command({ command: { type: 'set-mask', layer: layer.id, step, mask: l.mask } }))}>Its mask, copied</Menu.Item>
                )}
              </div>
            ))}
          </Menu.Dropdown>
        </Menu>
        <Button variant="default" size="compact-xs" onClick={() => act(command({ command: { type: 'set-mask', layer: layer.id, step, mask: null } }))}>
          Take the mask off
        </Button>
      </div>
    </div>
  )
}
