import { ActionIcon, Button, NumberInput, SegmentedControl, Select, Switch, Text, Tooltip } from '@mantine/core'
import { contentOf, framedIn, grownFrame, laidBox, RATIOS, type Artwork, type Region } from '@nimble-quill/core'
import { IconFlipHorizontal, IconFlipVertical, IconRotate, IconRotateClockwise } from '@tabler/icons-react'
import { useState, type ReactNode } from 'react'
import { useAct, useApp } from '../../store/store.ts'
import { command } from '../slice.ts'
import tuningCss from '../tuning/tuning.module.css'
import { Field, NumbersIn } from './Field.tsx'
import classes from './hands.module.css'
import { pixelsOf, setFrameHand, type PlaceUnit } from './slice.ts'
import { useFraming } from './use-framing.ts'

/** The ratio, width to height, that a frame keeps; null: free. */
export function ratioOf({ ratio, upright }: { ratio: string; upright: boolean }): number | null {
  const found = RATIOS.find((r) => r.name === ratio)
  return found ? (upright ? 1 / found.ratio : found.ratio) : null
}

/** What *Frame* needs while it is in hand: its numbers and ratio, the size of the sheet with what is on it, its level, turns. */
export function FrameColumn({ artwork, onHelp }: { artwork: Artwork; onHelp: (t: string) => void }) {
  const act = useAct()
  const hand = useApp((s) => s.hands.frame)
  const placeUnit = useApp((s) => s.hands.place.unit)
  const unit: PlaceUnit = placeUnit
  const share = unit === '%'
  const { frame, resize, turn, straighten } = useFraming()
  const { sheet, field } = artwork
  const one = pixelsOf(unit, sheet.ppi)
  const suffix = ` ${unit}`
  const help = (text: string) => ({ onPointerEnter: () => onHelp(text), onFocus: () => onHelp(text) })
  const ratio = ratioOf(hand)
  const rect: Region = { x: sheet.x, y: sheet.y, w: sheet.w, h: sheet.h }

  const size = (axis: 'w' | 'h') => ({
    // a share is of the size that it has now
    value: share ? 100 : sheet[axis] / one,
    onTake: (v: number) => {
      const px = share ? (v / 100) * sheet[axis] : v * one
      if (hand.changes === 'all') {
        void resize(axis === 'w' ? px : (px / sheet.h) * sheet.w)
        return
      }
      const other = axis === 'w' ? 'h' : 'w'
      const kept = ratio === null ? sheet[other] : axis === 'w' ? px / ratio : px * ratio
      frame(grownFrame(rect, axis === 'w' ? { w: px, h: kept } : { w: kept, h: px }, hand.pivot), 'Size of the sheet')
    },
  })
  const place = (axis: 'x' | 'y') => ({
    value: share ? ((sheet[axis] - field[axis]) / field[axis === 'x' ? 'w' : 'h']) * 100 : (sheet[axis] - field[axis]) / one,
    onTake: (v: number) =>
      frame({ ...rect, [axis]: Math.round(field[axis] + (share ? (v / 100) * field[axis === 'x' ? 'w' : 'h'] : v * one)) }, 'Move the frame'),
  })
  const keepTo = (name: string, upright: boolean) => {
    act(setFrameHand({ ratio: name, upright }))
    const next = ratioOf({ ratio: name, upright })
    if (next !== null && Math.abs(next - sheet.w / sheet.h) > 0.5 / sheet.h) frame(framedIn(rect, next), `Frame ${name}`)
  }
  const icon = (label: string, run: () => void, children: ReactNode) => (
    <Tooltip label={label}>
      <ActionIcon variant="default" aria-label={label} onClick={run}>
        {children}
      </ActionIcon>
    </Tooltip>
  )
  return (
    <>
      <header>
        <h2>Frame</h2>
        <Text size="xs" c="var(--faint)" data-framing>
          {sheet.w} × {sheet.h} px, {((sheet.w / sheet.ppi) * 25.4).toFixed(0)} × {((sheet.h / sheet.ppi) * 25.4).toFixed(0)} mm at {sheet.ppi} ppi
        </Text>
      </header>
      <div className={tuningCss.controls} data-part="controls">
        <div
          className={classes.pair}
          {...help('The frame is drawn in, or out, to this ratio, and keeps it while it is dragged. What it leaves out stays there.')}
        >
          <Select
            size="xs"
            label="Ratio"
            data={[{ value: '', label: 'Free' }, ...RATIOS.map((r) => ({ value: r.name, label: r.name }))]}
            value={hand.ratio}
            allowDeselect={false}
            onChange={(v) => keepTo(v ?? '', sheet.h > sheet.w)}
          />
          <div>
            <span className={classes.small}>Lies</span>
            <SegmentedControl
              size="xs"
              fullWidth
              aria-label="Lies"
              disabled={hand.ratio === '' || hand.ratio === 'Square'}
              data={[
                { value: 'level', label: 'Level' },
                { value: 'upright', label: 'Upright' },
              ]}
              value={hand.upright ? 'upright' : 'level'}
              onChange={(v) => keepTo(hand.ratio, v === 'upright')}
            />
          </div>
        </div>
        <NumbersIn help={help('What the numbers below count in. Shares are of the sheet as it is, and of the first sheet.')} />
        <div className={classes.pair} {...help('Where the frame lies, from the upper left corner of the first sheet.')}>
          <Field label="Across" suffix={suffix} {...place('x')} />
          <Field label="Down" suffix={suffix} {...place('y')} />
        </div>
        <div
          className={tuningCss.control}
          {...help(
            'The frame alone: more or less is seen. All of it: photos are enlarged; strokes, screens and papers are made anew at that size. % and mm stay what they are.',
          )}
        >
          <span className={tuningCss.label}>Width and height change</span>
          <SegmentedControl
            size="xs"
            aria-label="Width and height change"
            data={[
              { value: 'frame', label: 'The frame' },
              { value: 'all', label: 'All of it' },
            ]}
            value={hand.changes}
            onChange={(v) => act(setFrameHand({ changes: v as 'frame' | 'all' }))}
          />
        </div>
        <div className={classes.pair} {...help(hand.changes === 'all' ? 'How large the sheet is, with all that is on it.' : 'How much is seen.')}>
          <Field label="Width" suffix={suffix} {...size('w')} />
          <Field label="Height" suffix={suffix} {...size('h')} />
        </div>
        {hand.changes === 'frame' && (
          <div className={tuningCss.control} {...help('Which point stays where it is while width and height change.')}>
            <span className={tuningCss.label}>Stays</span>
            <Pivots at={hand.pivot} onTake={(pivot) => act(setFrameHand({ pivot }))} />
          </div>
        )}
        <Resolution artwork={artwork} onResize={resize} help={help} />
        <div className={tuningCss.control} {...help('Lines in the frame that help to find its place.')}>
          <span className={tuningCss.label}>Lines</span>
          <SegmentedControl
            size="xs"
            aria-label="Lines"
            data={[
              { value: 'none', label: 'None' },
              { value: 'thirds', label: 'Thirds' },
              { value: 'golden', label: 'Golden section' },
            ]}
            value={hand.lines}
            onChange={(v) => act(setFrameHand({ lines: v as 'none' | 'thirds' | 'golden' }))}
          />
        </div>
        <div {...help('Draw along something that should be level or plumb, a horizon or a doorpost: all on the sheet is turned by what it is off.')}>
          <div className={classes.pair}>
            <Button
              size="compact-sm"
              variant={hand.level ? 'filled' : 'default'}
              aria-pressed={hand.level}
              onClick={() => act(setFrameHand({ level: !hand.level }))}
            >
              {hand.level ? 'Draw the line …' : 'Level by a line'}
            </Button>
            <Straightening onTake={(degrees) => void straighten(degrees, hand.drawnIn)} />
          </div>
          <Switch mt={6} size="xs" label="No blank corners" checked={hand.drawnIn} onChange={(e) => act(setFrameHand({ drawnIn: e.currentTarget.checked }))} />
        </div>
        <div
          className={classes.line}
          role="group"
          aria-label="Turn and flip the sheet"
          {...help('All that is on the sheet. Screens, grain and the lamp keep their ways.')}
        >
          {icon('Turn the sheet left', () => void turn('counter-clockwise', 'Turn the sheet left'), <IconRotate size={16} />)}
          {icon('Turn the sheet right', () => void turn('clockwise', 'Turn the sheet right'), <IconRotateClockwise size={16} />)}
          {icon('Flip the sheet left to right', () => void turn('across', 'Flip the sheet'), <IconFlipVertical size={16} />)}
          {icon('Flip the sheet top to bottom', () => void turn('down', 'Flip the sheet'), <IconFlipHorizontal size={16} />)}
        </div>
        <div className={classes.line} {...help('Back to the sheet the artwork began with; or round all that there is.')}>
          <Button variant="default" size="compact-xs" onClick={() => frame({ ...field }, 'First sheet')}>
            First sheet
          </Button>
          <Button
            variant="default"
            size="compact-xs"
            onClick={() =>
              frame(
                contentOf(artwork, (l) => laidBox(artwork, l)),
                'Round everything',
              )
            }
          >
            Round everything
          </Button>
        </div>
      </div>
    </>
  )
}

const NAMES = ['Upper left', 'Top', 'Upper right', 'Left', 'Middle', 'Right', 'Lower left', 'Bottom', 'Lower right']

/** The point of the frame that stays: nine of them. */
function Pivots({ at, onTake }: { at: { x: number; y: number }; onTake: (p: { x: number; y: number }) => void }) {
  return (
    <div className={classes.pivots} role="radiogroup" aria-label="Stays">
      {NAMES.map((name, i) => {
        const p = { x: (i % 3) / 2, y: Math.floor(i / 3) / 2 }
        const on = p.x === at.x && p.y === at.y
        return <button key={name} type="button" role="radio" aria-checked={on} aria-label={name} title={name} onClick={() => onTake(p)} />
      })}
    </div>
  )
}

/** Pixels per inch: the pixels stay, or the paper does. */
function Resolution({ artwork: { sheet }, onResize, help }: { artwork: Artwork; onResize: (w: number) => Promise<boolean>; help: (t: string) => object }) {
  const act = useAct()
  const [stays, setStays] = useState<'pixels' | 'paper'>('pixels')
  return (
    <div
      className={classes.pair}
      {...help('Pixels per inch. The pixels stay and the print grows smaller; or the paper stays, and all of it is made anew with more pixels.')}
    >
      <Field
        label="Resolution"
        suffix=" ppi"
        value={sheet.ppi}
        onTake={(ppi) => {
          const wide = (sheet.w / sheet.ppi) * ppi
          const put = () => act(command({ command: { type: 'set-ppi', ppi } }))
          // a sheet that cannot be made so large keeps its resolution
          if (stays === 'paper' && ppi >= 1 && ppi <= 10000) void onResize(wide).then((done) => done && put())
          else put()
        }}
      />
      <div>
        <span className={classes.small}>What stays</span>
        <SegmentedControl
          size="xs"
          fullWidth
          aria-label="What stays"
          data={[
            { value: 'pixels', label: 'Pixels' },
            { value: 'paper', label: 'Paper' },
          ]}
          value={stays}
          onChange={(v) => setStays(v as 'pixels' | 'paper')}
        />
      </div>
    </div>
  )
}

/** Degrees to straighten by, typed. */
function Straightening({ onTake }: { onTake: (degrees: number) => void }) {
  const [typed, setTyped] = useState<number | string>(0)
  const take = () => {
    if (typeof typed === 'number' && typed !== 0 && Math.abs(typed) <= 45) onTake(-typed)
    setTyped(0)
  }
  return (
    <NumberInput
      size="xs"
      aria-label="Turn all by"
      value={typed}
      suffix="°"
      min={-45}
      max={45}
      decimalScale={2}
      hideControls
      onChange={setTyped}
      onBlur={take}
      onKeyDown={(e) => e.key === 'Enter' && take()}
    />
  )
}
