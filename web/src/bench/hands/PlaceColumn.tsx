import { ActionIcon, Button, SegmentedControl, Switch, Text, Tooltip } from '@mantine/core'
import {
  aligned,
  about,
  decided,
  decidedAs,
  distributed,
  fittedInto,
  flipped,
  identity,
  inverse,
  kindOf,
  mapped,
  movedBy,
  scaled,
  tidied,
  times,
  turnedBy,
  withoutPerspective,
  type Alignment,
  type Artwork,
  type Matrix,
  type Region,
} from '@nimble-quill/core'
import {
  IconArrowsHorizontal,
  IconArrowsVertical,
  IconFlipHorizontal,
  IconFlipVertical,
  IconLayoutAlignBottom,
  IconLayoutAlignCenter,
  IconLayoutAlignLeft,
  IconLayoutAlignMiddle,
  IconLayoutAlignRight,
  IconLayoutAlignTop,
  IconRotate,
  IconRotateClockwise,
} from '@tabler/icons-react'
import type { ReactNode } from 'react'
import { setPrefs } from '../../store/prefs.ts'
import { useAct, useApp } from '../../store/store.ts'
import { command } from '../slice.ts'
import tuningCss from '../tuning/tuning.module.css'
import { Field, NumbersIn } from './Field.tsx'
import classes from './hands.module.css'
import { pixelsOf, setPlace, type PlaceUnit } from './slice.ts'
import { placingOf, usePlacing, type Placing } from './use-placing.ts'

/** What *Place* needs while it is in hand: exact numbers, turns and flips, lines to be drawn to. */
export function PlaceColumn({ artwork, onHelp }: { artwork: Artwork; onHelp: (t: string) => void }) {
  const act = useAct()
  const { placing, put } = usePlacing(artwork)
  const { unit, grips, ratio, snaps } = useApp((s) => s.hands.place)
  const rulers = useApp((s) => s.prefs.rulers)
  const help = (text: string) => ({ onPointerEnter: () => onHelp(text), onFocus: () => onHelp(text) })
  const { sheet, guides } = artwork
  const setGuides = (next: Artwork['guides'], what: string) => act(command({ command: { type: 'set-guides', guides: next, what } }))
  return (
    <>
      <header>
        <h2>Place</h2>
        <Text size="xs" c="var(--faint)" data-placing>
          {placing ? `Placing: ${placing.name}` : 'Choose a layer in the process sheet.'}
        </Text>
      </header>
      <div className={tuningCss.controls} data-part="controls">
        {placing && <Numbers placing={placing} artwork={artwork} unit={unit} ratio={ratio} put={put} help={help} />}
        {placing && <Whole placing={placing} sheet={sheet} put={put} help={help} />}
        {placing && (
          <div className={tuningCss.control} {...help('The handles pull all of it, or each corner by itself: then it lies in perspective.')}>
            <span className={tuningCss.label}>Handles pull</span>
            <SegmentedControl
              size="xs"
              aria-label="Handles pull"
              data={[
                { value: 'box', label: 'All of it' },
                { value: 'corners', label: 'A corner' },
              ]}
              value={grips}
              onChange={(v) => act(setPlace({ grips: v as 'box' | 'corners' }))}
            />
          </div>
        )}
        {placing && <Aligning placing={placing} artwork={artwork} onHelp={onHelp} />}
        <Switch
          size="xs"
          label="Drawn to lines"
          checked={snaps}
          onChange={(e) => act(setPlace({ snaps: e.currentTarget.checked }))}
          {...help('Edges and middles are drawn to those of the sheet and of other layers, to thirds and guides. Ctrl held while dragging lets go of them.')}
        />
        <Switch
          size="xs"
          label="Rulers"
          checked={rulers}
          onChange={(e) => act(setPrefs({ rulers: e.currentTarget.checked }))}
          {...help('Rulers along the picture, in the unit above. Drag a guide out of one.')}
        />
        <div className={classes.line} role="group" aria-label="Guides">
          <Button
            variant="default"
            size="compact-xs"
            onClick={() => setGuides([...guides, { axis: 'upright', at: sheet.x + sheet.w / 2 }], 'Put an upright guide')}
          >
            Upright guide
          </Button>
          <Button variant="default" size="compact-xs" onClick={() => setGuides([...guides, { axis: 'level', at: sheet.y + sheet.h / 2 }], 'Put a level guide')}>
            Level guide
          </Button>
          {guides.length > 0 && (
            <Button variant="default" size="compact-xs" onClick={() => setGuides([], 'Take the guides away')}>
              Take all {guides.length} away
            </Button>
          )}
        </div>
      </div>
    </>
  )
}

type Put = (matrix: Matrix, what: string, gesture?: string) => void
type Help = (text: string) => object

function Numbers({
  placing,
  artwork: { sheet },
  unit,
  ratio,
  put,
  help,
}: {
  placing: Placing
  artwork: Artwork
  unit: PlaceUnit
  ratio: boolean
  put: Put
  help: Help
}) {
  const act = useAct()
  const { matrix, own, pivot, within } = placing
  const now = decided(matrix, pivot)
  const onSheet = mapped(times(within, matrix), pivot)
  const one = pixelsOf(unit, sheet.ppi)
  const suffix = unit === '%' ? ' %' : ` ${unit}`
  const place = (axis: 'x' | 'y') => {
    const [from, size] = axis === 'x' ? [sheet.x, sheet.w] : [sheet.y, sheet.h]
    const value = onSheet ? onSheet[axis] - from : 0
    return {
      value: unit === '%' ? (value / size) * 100 : value / one,
      onTake: (v: number) => {
        if (!onSheet) return
        const to = { ...onSheet, [axis]: from + (unit === '%' ? (v / 100) * size : v * one) }
        const back = inverse(within) ?? identity
        const [p, q] = [mapped(back, onSheet)!, mapped(back, to)!]
        put(movedBy(matrix, q.x - p.x, q.y - p.y), 'Move')
      },
    }
  }
  const extent = (axis: 'x' | 'y') => {
    const size = axis === 'x' ? own.w : own.h
    const scale = now ? (axis === 'x' ? now.scaleX : now.scaleY) : 1
    return {
      value: unit === '%' ? Math.abs(scale) * 100 : (Math.abs(scale) * size) / one,
      onTake: (v: number) => {
        if (!now) return
        const to = (unit === '%' ? v / 100 : (v * one) / size) * Math.sign(scale)
        const by = to / scale
        const next =
          axis === 'x' ? { scaleX: to, ...(ratio ? { scaleY: now.scaleY * by } : {}) } : { scaleY: to, ...(ratio ? { scaleX: now.scaleX * by } : {}) }
        // 0 is told of by the command itself
        put(decidedAs(matrix, pivot, next) ?? times(matrix, scaled(0)), 'Scale')
      },
    }
  }
  return (
    <>
      <NumbersIn help={help('What the numbers and the rulers count in. Shares are of the sheet, and of the layer’s own size.')} />
      <div className={classes.pair} {...help('Where the pivot lies, from the sheet’s left and upper edge.')}>
        <Field label="Across" suffix={suffix} {...place('x')} />
        <Field label="Down" suffix={suffix} {...place('y')} />
      </div>
      {now ? (
        <>
          <div className={classes.pair} {...help('How large it is laid. 50 % is exactly half: halved, not resampled.')}>
            <Field label="Width" suffix={suffix} {...extent('x')} />
            <Field label="Height" suffix={suffix} {...extent('y')} />
          </div>
          <Switch size="xs" label="Keeps its ratio" checked={ratio} onChange={(e) => act(setPlace({ ratio: e.currentTarget.checked }))} />
          <div className={classes.pair} {...help('Turned clockwise about its pivot; slanted, its upright sides lean.')}>
            <Field label="Turned" suffix="°" value={now.angle} onTake={(v) => put(turnedBy(matrix, mapped(matrix, pivot)!, v - now.angle), 'Turn')} />
            <Field
              label="Slanted"
              suffix="°"
              value={now.slant}
              onTake={(v) => {
                const next = Math.abs(v) < 89 ? decidedAs(matrix, pivot, { slant: v }) : null
                if (next) put(next, 'Slant')
              }}
            />
          </div>
        </>
      ) : (
        <Button variant="default" onClick={() => put(withoutPerspective(matrix, own), 'Take the perspective off')}>
          Without its perspective
        </Button>
      )}
    </>
  )
}

/** What is done to all of it at once. */
function Whole({ placing, sheet, put, help }: { placing: Placing; sheet: Region; put: Put; help: Help }) {
  const { matrix, own, pivot, within } = placing
  const at = mapped(matrix, pivot)
  const one = placing.layers.length === 1
  const back = inverse(within) ?? identity
  const fitted = (way: 'inside' | 'cover') => tidied(times(back, fittedInto(own, sheet, way)))
  const icon = (label: string, run: () => void, children: ReactNode) => (
    <Tooltip label={label}>
      <ActionIcon variant="default" aria-label={label} disabled={!at} onClick={run}>
        {children}
      </ActionIcon>
    </Tooltip>
  )
  return (
    <>
      <div className={classes.line} role="group" aria-label="Turn and flip" {...help('About its pivot. Quarter turns and flips are exact copies.')}>
        {icon('Turn left by a quarter', () => put(turnedBy(matrix, at!, -90), 'Turn'), <IconRotate size={16} />)}
        {icon('Turn right by a quarter', () => put(turnedBy(matrix, at!, 90), 'Turn'), <IconRotateClockwise size={16} />)}
        {icon('Flip left to right', () => put(flipped(matrix, at!, 'across'), 'Flip'), <IconFlipVertical size={16} />)}
        {icon('Flip top to bottom', () => put(flipped(matrix, at!, 'down'), 'Flip'), <IconFlipHorizontal size={16} />)}
      </div>
      <div
        className={classes.line}
        role="group"
        aria-label="Size"
        {...help('Half of the size it has now, about its pivot; into the sheet whole; or covering it.')}
      >
        <Button variant="default" size="compact-xs" onClick={() => put(tidied(times(matrix, about(pivot, scaled(0.5)))), 'Halve')}>
          Half
        </Button>
        <Button variant="default" size="compact-xs" onClick={() => put(fitted('inside'), 'Fit')}>
          Into the sheet
        </Button>
        <Button variant="default" size="compact-xs" onClick={() => put(fitted('cover'), 'Fit')}>
          Cover the sheet
        </Button>
        {one && kindOf(matrix) !== 'still' && (
          <Button variant="default" size="compact-xs" onClick={() => put(identity, 'Lay back')}>
            Where it was
          </Button>
        )}
      </div>
    </>
  )
}

const ALIGNMENTS: [Alignment, string, ReactNode][] = [
  ['left', 'Left edges', <IconLayoutAlignLeft key="l" size={16} />],
  ['centre', 'Middles, across', <IconLayoutAlignCenter key="c" size={16} />],
  ['right', 'Right edges', <IconLayoutAlignRight key="r" size={16} />],
  ['top', 'Upper edges', <IconLayoutAlignTop key="t" size={16} />],
  ['middle', 'Middles, down', <IconLayoutAlignMiddle key="m" size={16} />],
  ['bottom', 'Lower edges', <IconLayoutAlignBottom key="b" size={16} />],
]

/** Aligns one layer on the sheet, or several among each other; spreads them evenly. */
function Aligning({ placing, artwork, onHelp }: { placing: Placing; artwork: Artwork; onHelp: (t: string) => void }) {
  const act = useAct()
  const { layers } = placing
  const several = layers.length > 1
  const boxes = layers.map((l) => placingOf(artwork, [l.id])!)
  const move = (by: readonly { dx: number; dy: number }[], what: string) =>
    act(
      command({
        command: {
          type: 'place-layers',
          what,
          layers: boxes.map(({ within, matrix, layers: [layer] }, i) => {
            const back = inverse(within) ?? identity
            const [p, q] = [mapped(back, { x: 0, y: 0 })!, mapped(back, { x: by[i]!.dx, y: by[i]!.dy })!]
            return { layer: layer!.id, matrix: movedBy(matrix, q.x - p.x, q.y - p.y) }
          }),
        },
      }),
    )
  const to = several ? placing.box : artwork.sheet
  const button = (label: string, run: () => void, children: ReactNode, disabled = false) => (
    <Tooltip key={label} label={label}>
      <ActionIcon variant="default" aria-label={label} disabled={disabled} onClick={run}>
        {children}
      </ActionIcon>
    </Tooltip>
  )
  const text = several
    ? 'The chosen layers along one line, among each other; or with even gaps.'
    : 'On the sheet. With several layers chosen, among each other.'
  return (
    <div className={classes.line} role="group" aria-label="Align" onPointerEnter={() => onHelp(text)} onFocus={() => onHelp(text)}>
      {ALIGNMENTS.map(([how, label, picture]) =>
        button(
          `Align: ${label.toLowerCase()}`,
          () =>
            move(
              aligned(
                boxes.map((b) => b.box),
                to,
                how,
              ),
              'Align',
            ),
          picture,
        ),
      )}
      {(['across', 'down'] as const).map((way) =>
        button(
          `Even gaps, ${way}`,
          () =>
            move(
              distributed(
                boxes.map((b) => b.box),
                way,
              ),
              'Spread',
            ),
          way === 'across' ? <IconArrowsHorizontal size={16} /> : <IconArrowsVertical size={16} />,
          layers.length < 3,
        ),
      )}
    </div>
  )
}
