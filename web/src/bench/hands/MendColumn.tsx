import { Button, SegmentedControl, Switch, Text } from '@mantine/core'
import { locate, mendedIn, type Artwork, type Layer, type Mended } from '@nimble-quill/core'
import { useAct, useApp } from '../../store/store.ts'
import { command } from '../slice.ts'
import tuningCss from '../tuning/tuning.module.css'
import classes from './hands.module.css'
import { BrushControls } from './PaintColumn.tsx'
import { setMend } from './slice.ts'
import { useMend } from './use-mend.ts'

const WAYS: Record<Mended['way'], { title: string; how: string }> = {
  clone: { title: 'Clone', how: 'Hold C and click where to take from; then paint over what is to be covered.' },
  heal: { title: 'Heal', how: 'As cloning, but what is laid goes over into the colours round about when the brush is lifted.' },
  spot: { title: 'Spot', how: 'Paint over what is to be gone; it looks for something near that can stand in for it.' },
}

/** What the hand that mends needs: how, where it takes from, its brush. */
export function MendColumn({ artwork, layer: id, onHelp }: { artwork: Artwork; layer: string; onHelp: (t: string) => void }) {
  const act = useAct()
  const mend = useApp((s) => s.hands.mend)
  const brush = useApp((s) => s.hands.brush)
  const { findSource, put } = useMend()
  const { layer } = locate(artwork.layers as Layer[], id)
  const all = mendedIn(layer)
  const last = mend.last && all.find((m) => m.id === mend.last!.place)
  const help = (text: string) => ({ onPointerEnter: () => onHelp(text), onFocus: () => onHelp(text) })
  return (
    <>
      <header>
        <h2>Mend</h2>
        <Text size="xs" c="var(--faint)" data-mending-on>
          Mending on: {layer.name}, {all.length === 1 ? '1 place' : `${all.length} places`}
          {artwork.area && ', within the area'}
        </Text>
        <SegmentedControl
          mt={6}
          size="xs"
          fullWidth
          aria-label="How it is mended"
          data={Object.entries(WAYS).map(([value, { title }]) => ({ value, label: title }))}
          value={mend.way}
          onChange={(way) => act(setMend({ way: way as Mended['way'] }))}
        />
      </header>
      <div className={tuningCss.controls} data-part="controls">
        <Text size="xs" c="var(--faint)">
          {WAYS[mend.way].how}
        </Text>
        {mend.way !== 'spot' && (
          <>
            <Text size="xs" data-mend-source>
              {mend.source ? `Taken from ${Math.round(mend.source.x)}, ${Math.round(mend.source.y)} px` : 'No source yet'}
            </Text>
            <Switch
              size="xs"
              label="The source travels with the hand"
              checked={mend.travels}
              onChange={(e) => act(setMend({ travels: e.currentTarget.checked, offset: null }))}
              {...help('It stays as far from the hand as at the first stroke; or every stroke begins to take at the source itself.')}
            />
            <div className={classes.line}>
              <Button variant="default" size="compact-xs" onClick={() => act(setMend({ source: { ...artwork.lookSpot }, offset: null }))}>
                Take from the look spot
              </Button>
            </div>
          </>
        )}
        <div className={classes.line}>
          {mend.way === 'spot' && (
            <Button
              variant="default"
              size="compact-xs"
              disabled={!last}
              onClick={() =>
                void findSource({ layer: id, step: mend.last!.place, part: 'mend' }, mend.last!.tried, `${mend.last!.turn}-${mend.last!.tried.length}`)
              }
            >
              Another source
            </Button>
          )}
          <Button
            variant="default"
            size="compact-xs"
            disabled={all.length === 0}
            onClick={() => put(id, all.slice(0, -1), 'Take out the last mended place', `unmend-${all.length}`)}
          >
            Take out the last place
          </Button>
          <Button
            variant="default"
            size="compact-xs"
            disabled={all.length === 0}
            onClick={() => act(command({ command: { type: 'set-mended', layer: id, mended: [], what: 'Take out all mended places' } }))}
          >
            Take out all
          </Button>
        </div>
        <BrushControls brush={brush} ppi={artwork.sheet.ppi} onHelp={onHelp} />
      </div>
    </>
  )
}
