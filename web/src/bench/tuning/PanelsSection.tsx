import { Button, SegmentedControl, Select, Switch } from '@mantine/core'
import {
  allLayers,
  convertLength,
  freshId,
  harmonies,
  harmonious,
  panelsOf,
  swappedPanels,
  turnedHues,
  withPanel,
  type Artwork,
  type Colourway,
  type HarmonyId,
  type Layer,
  type Length,
  type Panel,
  type PanelChange,
} from '@nimble-quill/core'
import { useState } from 'react'
import { useAct } from '../../store/store.ts'
import { UnitOf } from '../hands/rows.tsx'
import { choose, command } from '../slice.ts'
import { NumberControl } from './NumberControl.tsx'
import tuningCss from './tuning.module.css'
import { ColourField } from './widgets/ColourField.tsx'
import { ColourwayEditor } from './widgets/ColourwayEditor.tsx'
import { PanelTable } from './widgets/PanelTable.tsx'

const UNITS = ['px', 'mm', '%'] as const
/** Of the select: all that lies below. */
const BELOW = 'what lies below'

/** What a panel sheet is: what it repeats, how many panels, between them, and the colourways that they are dealt. */
export function PanelsSection({ artwork, layer, onHelp }: { artwork: Artwork; layer: Layer; onHelp: (t: string) => void }) {
  const act = useAct()
  const [at, setAt] = useState<Pick<Panel, 'row' | 'column'> | null>(null)
  const { source } = layer
  if (source.type !== 'panels') return null
  const put = (change: PanelChange, what: string, gesture?: string) =>
    act(command({ command: { type: 'set-panels', layer: layer.id, change, what }, ...(gesture ? { gesture: `${layer.id}.panels.${gesture}` } : {}) }))
  const ways = new Map(artwork.colourways.map((c) => [c.id, c]))
  const panels = panelsOf(artwork, source)
  const chosen = at && panels.find((p) => p.row === at.row && p.column === at.column)
  const scale = { reference: artwork.reference, ppi: artwork.sheet.ppi }
  const help = (text: string) => ({ onPointerEnter: () => onHelp(text), onFocus: () => onHelp(text) })
  const set = source.colourways.flatMap((id) => ways.get(id) ?? [])
  /** New colourways, dealt instead of those there were. */
  const deal = (made: Colourway[], what: string) => {
    const gesture = `panels-${made[0]!.id}`
    // those that nothing shows any more go
    const used = new Set(
      [...allLayers(artwork.layers)].flatMap((l) =>
        l.source.type === 'panels'
          ? [...(l.id === layer.id ? [] : l.source.colourways), ...l.source.panels.filter((p) => p.locked).flatMap((p) => p.colourway ?? [])]
          : [],
      ),
    )
    act(command({ command: { type: 'set-colourways', colourways: [...artwork.colourways.filter((c) => used.has(c.id)), ...made], what }, gesture }))
    act(
      command({
        command: {
          type: 'set-panels',
          layer: layer.id,
          change: { colourways: made.map((c) => c.id), panels: source.panels.filter((p) => p.locked || p.own !== null) },
          what,
        },
        gesture,
      }),
    )
  }
  const count = (label: string, value: number, change: (v: number) => PanelChange, text: string) => (
    <NumberControl
      label={label}
      help={text}
      value={value}
      min={1}
      max={12}
      step={1}
      fallback={2}
      feel="even"
      suffix=""
      onHelp={onHelp}
      onChange={(v, gesture) => put(change(Math.round(v)), label, gesture && `${label}.${gesture}`)}
    />
  )
  const gap = (label: string, value: Length, change: (l: Length) => PanelChange, text: string) => (
    <NumberControl
      label={label}
      help={text}
      value={value.value}
      min={0}
      max={value.unit === 'px' ? 400 : value.unit === 'mm' ? 40 : 10}
      step={value.unit === 'px' ? 1 : 0.5}
      fallback={0}
      feel="even"
      suffix=""
      onHelp={onHelp}
      onChange={(v, gesture) => put(change({ ...value, value: v }), label, gesture && `${label}.${gesture}`)}
      after={
        <UnitOf label={label} unit={value.unit} units={UNITS} onUnit={(unit: Length['unit']) => put(change(tidy(convertLength(value, unit, scale))), label)} />
      }
    />
  )
  const others = [...allLayers(artwork.layers)].filter((l) => l.id !== layer.id && l.source.type !== 'panels').reverse()
  return (
    <>
      <div
        className={tuningCss.control}
        {...help('What each panel shows: a layer or a group by itself, as it is when its steps are done; or all that lies below.')}
      >
        <label className={tuningCss.label} htmlFor="panels-of">
          Panels of
        </label>
        <Select
          id="panels-of"
          w={152}
          data={[{ value: BELOW, label: 'What lies below' }, ...others.map((l) => ({ value: l.id, label: l.name }))]}
          value={source.of ?? BELOW}
          allowDeselect={false}
          onChange={(v) => v && put({ of: v === BELOW ? null : v }, 'Picture')}
        />
      </div>
      {count('Rows', source.rows, (rows) => ({ rows }), 'How many panels stand below each other.')}
      {count('Columns', source.columns, (columns) => ({ columns }), 'How many panels stand beside each other.')}
      {gap('Gutter', source.gutter, (gutter) => ({ gutter }), 'Between the panels.')}
      {gap('Margin', source.margin, (margin) => ({ margin }), 'Round all of them.')}
      <div className={tuningCss.control} {...help('What is seen between the panels, and where the picture is clear.')}>
        <span className={tuningCss.label}>Backing</span>
        <ColourField label="Backing" value={source.backing} onChange={(backing, gesture) => put({ backing }, 'Backing', gesture && `backing.${gesture}`)} />
      </div>
      <div
        className={tuningCss.control}
        {...help('The sheet keeps its size and the panels are made smaller; or panels are as large as the picture, and the sheet grows.')}
      >
        <span className={tuningCss.label}>Keeps its size</span>
        <SegmentedControl
          size="xs"
          aria-label="Keeps its size"
          data={[
            { value: 'sheet', label: 'The sheet' },
            { value: 'panels', label: 'Each panel' },
          ]}
          value={source.keeps}
          onChange={(v) => put({ keeps: v as 'sheet' | 'panels' }, 'Size')}
        />
      </div>
      <div
        className={tuningCss.control}
        {...help('Screens, grain and other steps on paper are made smaller with the picture; or made anew in each panel, as coarse as they are.')}
      >
        <span className={tuningCss.label}>Screens</span>
        <SegmentedControl
          size="xs"
          aria-label="Screens"
          data={[
            { value: 'shrink', label: 'Shrink too' },
            { value: 'stay', label: 'Keep ruling' },
          ]}
          value={source.screens}
          onChange={(v) => put({ screens: v as 'shrink' | 'stay' }, 'Screens')}
        />
      </div>
      <h3 className={tuningCss.part}>Colourways</h3>
      <MakeSet count={Math.max(2, set.length || source.rows * source.columns)} onMake={deal} help={help} />
      <PanelTable
        panels={panels}
        rows={source.rows}
        columns={source.columns}
        ways={ways}
        at={at}
        onTake={(p) => {
          setAt(p)
          onHelp('A panel: drag it onto another to swap their colourways; below, its own is chosen, locked, or the panel taken out.')
        }}
        onSwap={(a, b) => put({ panels: swappedPanels(artwork, source, a, b) }, 'Swap panels')}
      />
      <div className={tuningCss.control} {...help('Deals the colourways anew to all panels that are not locked.')}>
        <Button
          variant="default"
          size="compact-sm"
          onClick={() => put({ deal: (source.deal % 999) + 1, panels: source.panels.filter((p) => p.locked || p.own !== null) }, 'Deal the colourways')}
        >
          Deal anew
        </Button>
        {source.deal !== 0 && (
          <Button
            variant="default"
            size="compact-sm"
            onClick={() => put({ deal: 0, panels: source.panels.filter((p) => p.locked || p.own !== null) }, 'Colourways in order')}
          >
            In order
          </Button>
        )}
      </div>
      {chosen && (
        <div role="group" aria-label={`Panel ${chosen.row + 1}, ${chosen.column + 1}`}>
          <div className={tuningCss.control}>
            <label className={tuningCss.label} htmlFor="panel-way">
              Panel {chosen.row + 1}, {chosen.column + 1}
            </label>
            <Select
              id="panel-way"
              w={152}
              data={[{ value: '', label: 'As the picture is' }, ...artwork.colourways.map((c) => ({ value: c.id, label: c.name }))]}
              value={chosen.colourway ?? ''}
              allowDeselect={false}
              onChange={(v) => put({ panels: withPanel(artwork, source, chosen.row, chosen.column, { colourway: v || null }) }, 'Colourway of a panel')}
            />
          </div>
          {chosen.colourway !== null && ways.has(chosen.colourway) && (
            <ColourwayEditor
              key={chosen.colourway}
              way={ways.get(chosen.colourway)!}
              onHelp={onHelp}
              onChange={(next, gesture) =>
                act(
                  command({
                    command: {
                      type: 'set-colourways',
                      colourways: artwork.colourways.map((c) => (c.id === next.id ? next : c)),
                      what: `Colourway “${next.name}”`,
                    },
                    ...(gesture ? { gesture: `colourway.${next.id}.${gesture}` } : {}),
                  }),
                )
              }
            />
          )}
          <div className={tuningCss.control} {...help('A locked panel keeps its colourway when they are dealt anew.')}>
            <Switch
              size="xs"
              label="Locked"
              checked={chosen.locked}
              onChange={(e) =>
                put(
                  { panels: withPanel(artwork, source, chosen.row, chosen.column, { locked: e.currentTarget.checked }) },
                  e.currentTarget.checked ? 'Lock a panel' : 'Unlock a panel',
                )
              }
            />
            <Button
              variant="default"
              size="compact-sm"
              disabled={chosen.own !== null}
              onClick={() => {
                const id = freshId()
                act(command({ command: { type: 'take-panel', layer: layer.id, row: chosen.row, column: chosen.column, id } }))
                act(choose({ type: 'layer', layer: id }))
              }}
            >
              {chosen.own === null ? 'Take it out' : 'Taken out'}
            </Button>
          </div>
        </div>
      )}
    </>
  )
}

const tidy = (l: Length): Length => ({ ...l, value: Number(l.value.toPrecision(4)) })

/** A set of colourways made at once: hues turned, or palettes of a harmony. */
function MakeSet({ count, onMake, help }: { count: number; onMake: (made: Colourway[], what: string) => void; help: (t: string) => object }) {
  const [kind, setKind] = useState<'hues' | HarmonyId>('hues')
  const [ways, setWays] = useState(count)
  const [colours, setColours] = useState(4)
  const [first, setFirst] = useState(20)
  const number = (label: string, value: number, min: number, max: number, take: (v: number) => void, step = 1, unit = '') => (
    <Select
      size="xs"
      label={label}
      data={Array.from({ length: Math.floor((max - min) / step) + 1 }, (_, i) => ({ value: String(min + i * step), label: `${min + i * step}${unit}` }))}
      value={String(Math.min(max, Math.max(min, value)))}
      allowDeselect={false}
      onChange={(v) => v && take(Number(v))}
    />
  )
  return (
    <div
      className={tuningCss.set}
      {...help('Hues turned evenly round the circle; or palettes from dark to light, one for each tone, whose hues stand in a harmony.')}
    >
      <Select
        size="xs"
        label="Set"
        data={[{ value: 'hues', label: 'Hues turned' }, ...Object.entries(harmonies).map(([value, { title }]) => ({ value, label: title }))]}
        value={kind}
        allowDeselect={false}
        onChange={(v) => v && setKind(v as 'hues' | HarmonyId)}
      />
      {number('Colourways', ways, 2, 16, setWays)}
      {kind !== 'hues' && number('Colours', colours, 2, 8, setColours)}
      {kind !== 'hues' && number('From hue', first, 0, 340, setFirst, 20, '°')}
      <Button
        size="compact-sm"
        variant="default"
        onClick={() =>
          kind === 'hues'
            ? onMake(turnedHues(ways), 'Hues turned')
            : onMake(harmonious(kind, ways, colours, first), `Colourways ${harmonies[kind].title.toLowerCase()}`)
        }
      >
        Make the set
      </Button>
    </div>
  )
}
