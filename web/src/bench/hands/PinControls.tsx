import { ActionIcon, Button } from '@mantine/core'
import { freshId, PIN_REACH, type Artwork } from '@nimble-quill/core'
import { IconTrash } from '@tabler/icons-react'
import { useAct } from '../../store/store.ts'
import { command } from '../slice.ts'
import { NumberControl } from '../tuning/NumberControl.tsx'
import classes from './hands.module.css'

/** How far a pin reaches at least and at most. */
const REACH = { min: 1, max: 60 }

/** The detail pins in the column: set, made wider, taken out. */
export function PinControls({ artwork, onHelp }: { artwork: Artwork; onHelp: (t: string) => void }) {
  const act = useAct()
  const { pins, sheet } = artwork
  const put = (next: Artwork['pins'], what: string, gesture?: string) =>
    act(command({ command: { type: 'set-pins', pins: next, what }, ...(gesture ? { gesture } : {}) }))
  const add = () => {
    const [x, y] = [sheet.x + sheet.w / 2, sheet.y + sheet.h / 2]
    // not on top of one that stands there
    const taken = pins.filter((p) => Math.abs(p.x - x) < sheet.w / 4 && Math.abs(p.y - y) < 1).length
    const pin = { id: freshId(), x: Math.round(x + (taken * sheet.w) / 20), y: Math.round(y), radius: { value: PIN_REACH, unit: '%' as const } }
    put([...pins, pin], 'Set a detail pin')
  }
  return (
    <div className={classes.fold} role="group" aria-label="Detail pins">
      <h3>Detail pins</h3>
      {pins.map((pin, i) => (
        <NumberControl
          key={pin.id}
          label={`Pin ${i + 1} reaches`}
          help="How far round the pin fine marks are drawn. Drag the pin in the picture to where it belongs."
          value={pin.radius.value}
          min={REACH.min}
          max={REACH.max}
          step={0.5}
          fallback={PIN_REACH}
          feel="log"
          suffix={pin.radius.unit === '%' ? ' %' : ` ${pin.radius.unit}`}
          onHelp={onHelp}
          onChange={(value, gesture) =>
            put(
              pins.map((p) => (p.id === pin.id ? { ...p, radius: { ...p.radius, value } } : p)),
              'Reach of a detail pin',
              gesture && `${pin.id}.${gesture}`,
            )
          }
          after={
            <ActionIcon
              variant="subtle"
              color="gray"
              size="sm"
              aria-label={`Take out pin ${i + 1}`}
              onClick={() =>
                put(
                  pins.filter((p) => p.id !== pin.id),
                  'Take out a detail pin',
                )
              }
            >
              <IconTrash size={15} />
            </ActionIcon>
          }
        />
      ))}
      <div className={classes.line}>
        <Button
          variant="default"
          size="compact-xs"
          onClick={add}
          onPointerEnter={() => onHelp('A pin in the middle of the sheet; drag it to where small things matter. Round it, fine marks are drawn.')}
        >
          Set a pin
        </Button>
      </div>
    </div>
  )
}
