import {
  closestCenter,
  DndContext,
  DragOverlay,
  PointerSensor,
  pointerWithin,
  TouchSensor,
  useSensor,
  useSensors,
  type CollisionDetection,
  type DragEndEvent,
} from '@dnd-kit/core'
import { Button, TextInput } from '@mantine/core'
import { freshId, stepAt, type Artwork, type StepUse } from '@nimble-quill/core'
import { IconSearch } from '@tabler/icons-react'
import { Fragment, memo, useEffect, useRef, useState, type KeyboardEvent } from 'react'
import { useKeys } from '../../parts/keys.ts'
import { useStore } from 'react-redux'
import { setPrefs } from '../../store/prefs.ts'
import { useHandle } from '../../parts/use-handle.ts'
import { useAct, useApp, type RootState } from '../../store/store.ts'
import { WholeOrSpot } from '../proofs/Cells.tsx'
import { Picker } from '../proofs/Picker.tsx'
import { choose, command, openPicker } from '../slice.ts'
import { AddLayer } from './AddLayer.tsx'
import type { OnHold } from './hold.ts'
import { entriesOf, type Entry } from './entries.ts'
import { withChosen } from './layer-deeds.tsx'
import { LayerGap } from './LayerGap.tsx'
import { Row } from './Row.tsx'
import { sourceName } from './source-name.ts'
import sheetCss from './sheet.module.css'
import pictureCss from '../picture/picture.module.css'

interface Props {
  artwork: Artwork
  onHold: OnHold
}

type Dragged = { kind: 'step'; layer: string; step: string; index: number; use: StepUse } | { kind: 'layers'; layer: string; name: string }
type Taken = { kind: 'step'; layer: string; index: number } | { kind: 'layers'; group: string | null; index: number }

/** What takes what is dragged: the place under the pointer, else, for layers, the nearest one. */
const nearest: CollisionDetection = (args) => {
  const kind = (args.active.data.current as Dragged | undefined)?.kind
  const places = args.droppableContainers.filter((c) => (c.data.current as Taken | undefined)?.kind === kind)
  const under = pointerWithin({ ...args, droppableContainers: places })
  return under.length || kind === 'step' ? under : closestCenter({ ...args, droppableContainers: places })
}

/** The lower ends of lists that end with a row, the innermost first. */
function endsAt(entries: readonly Entry[], i: number): { group: string | null; index: number; depth: number }[] {
  const ends: { group: string | null; index: number; depth: number }[] = []
  const next = entries[i + 1]
  let entry: Entry | undefined = entries[i]
  while (entry && entry.index === 0 && (next === undefined || next.depth < entry.depth || (next.depth === entry.depth && next.group !== entry.group))) {
    ends.push({ group: entry.group, index: 0, depth: entry.depth })
    const { group }: Entry = entry
    entry = group === null ? undefined : entries.find((e) => e.layer.id === group)
  }
  return ends
}

/** The score of the artwork: a row a layer, top layer uppermost; in the row a picture after each step. */
export const ProcessSheet = memo(function ProcessSheet({ artwork, onHold }: Props) {
  const act = useAct()
  const choice = useApp((s) => s.bench.choice)
  const picker = useApp((s) => s.bench.picker)
  const height = useApp((s) => s.prefs.sheetHeight)
  const [away, setAway] = useState(false)
  const [search, setSearch] = useState('')
  const takeFirst = useRef<() => void>(() => undefined)
  useEffect(() => setSearch(''), [picker])
  const [dragged, setDragged] = useState<Dragged | null>(null)
  const store = useStore<RootState>()
  // a drag starts after 6 px (touch: after a hold), so that a click stays a click
  const sensors = useSensors(
    useSensor(PointerSensor, { activationConstraint: { distance: 6 } }),
    useSensor(TouchSensor, { activationConstraint: { delay: 250, tolerance: 6 } }),
  )
  useKeys('shift+g', () => {
    const { bench } = store.getState()
    if (!bench.choice || bench.choice.type === 'recipe') return
    const group = freshId()
    act(command({ command: { type: 'group-layers', layers: withChosen(bench, bench.choice.layer), group, name: 'Group' } }))
    act(choose({ type: 'layer', layer: group }))
  })
  useKeys('h', (e) => setAway(e.type === 'keydown'), { keydown: true, keyup: true })

  const recipeUse = choice?.type === 'recipe' ? artwork.recipes.find((r) => r.id === choice.use) : undefined
  const open = picker?.layer ?? (choice && choice.type !== 'recipe' ? choice.layer : artwork.layers.at(-1)?.id)

  const dropped = (e: DragEndEvent) => {
    setDragged(null)
    const from = e.active.data.current as Dragged | undefined
    const to = e.over?.data.current as Taken | undefined
    if (!from || !to) return
    if (from.kind === 'layers') {
      if (to.kind === 'layers')
        act(command({ command: { type: 'move-layers', layers: withChosen(store.getState().bench, from.layer), list: to.group, index: to.index } }))
      return
    }
    if (to.kind === 'layers') return
    // the place is counted after the step has been taken out
    const index = from.layer === to.layer && to.index > from.index ? to.index - 1 : to.index
    if (from.layer === to.layer && index === from.index) return
    act(command({ command: { type: 'move-step', layer: from.layer, step: from.step, toLayer: to.layer, index } }))
    act(choose({ type: 'step', layer: to.layer, step: from.step }))
  }

  const putHeight = (h: number) => act(setPrefs({ sheetHeight: Math.min(window.innerHeight - 320, Math.max(130, h)) }))
  const pull = useHandle((e) => putHeight(window.innerHeight - e.clientY))
  const pullByKey = (e: KeyboardEvent) => {
    const by = e.key === 'ArrowUp' ? 16 : e.key === 'ArrowDown' ? -16 : 0
    if (by) putHeight(height + by)
  }

  if (away) return null
  const entries = entriesOf(artwork.layers)
  const rowOf = (entry: Entry) => ({ ...entry, from: sourceName(artwork, entry.layer.source), sheet: artwork.sheet, onHold })
  const draggingStep = dragged?.kind === 'step'
  return (
    <section className={sheetCss.process} aria-label="Process sheet" style={picker ? { height: Math.max(height, 348) } : { maxHeight: height }}>
      <div
        className={sheetCss.pull}
        role="separator"
        aria-orientation="horizontal"
        aria-label="Height of the process sheet"
        aria-valuemin={130}
        aria-valuemax={Math.max(130, window.innerHeight - 320)}
        aria-valuenow={height}
        tabIndex={0}
        {...pull()}
        onKeyDown={pullByKey}
      />
      <div className={sheetCss.bar}>
        <b style={{ fontWeight: 600 }}>{picker ? 'Add a step or a recipe' : 'Process sheet'}</b>
        {picker && (
          <TextInput
            placeholder="Search"
            aria-label="Search steps and recipes"
            leftSection={<IconSearch size={13} />}
            value={search}
            onChange={(e) => setSearch(e.currentTarget.value)}
            onKeyDown={(e) => e.key === 'Enter' && takeFirst.current()}
            w={180}
            styles={{ input: { height: 24, minHeight: 24 } }}
          />
        )}
        {!picker &&
          artwork.recipes.map((r) => (
            <Button
              key={r.id}
              variant={recipeUse?.id === r.id ? 'light' : 'default'}
              size="compact-xs"
              aria-pressed={recipeUse?.id === r.id}
              onClick={() => act(choose({ type: 'recipe', use: r.id }))}
            >
              Recipe: {r.title}
            </Button>
          ))}
        <span style={{ flex: 1 }} />
        <WholeOrSpot label="Small pictures show" />
        {picker ? (
          <Button variant="default" size="compact-xs" onClick={() => act(openPicker(null))}>
            Close
          </Button>
        ) : (
          <AddLayer chosen={open} />
        )}
      </div>
      <DndContext
        sensors={sensors}
        collisionDetection={nearest}
        // the sheet is low: it scrolls only near its very rims
        autoScroll={{ threshold: { x: 0.1, y: 0.1 } }}
        onDragStart={(e) => setDragged(e.active.data.current as Dragged)}
        onDragEnd={dropped}
        onDragCancel={() => setDragged(null)}
      >
        {picker ? (
          <>
            <div style={{ padding: '0 10px 4px' }}>
              {entries
                .filter((e) => e.layer.id === picker.layer)
                .map((e) => (
                  <Row key={e.layer.id} {...rowOf(e)} depth={0} large dragging={false} gapOpen={picker.index} />
                ))}
            </div>
            <Picker artwork={artwork} gap={picker} search={search} takeFirst={takeFirst} />
          </>
        ) : (
          <div className={sheetCss.rows}>
            {entries.map((e, i) => (
              <Fragment key={e.layer.id}>
                {dragged?.kind === 'layers' && <LayerGap group={e.group} index={e.index + 1} depth={e.depth} />}
                <Row {...rowOf(e)} large={e.layer.id === open} dragging={draggingStep} gapOpen={null} />
                {dragged?.kind === 'layers' && endsAt(entries, i).map((x) => <LayerGap key={x.group ?? ''} {...x} />)}
              </Fragment>
            ))}
          </div>
        )}
        <DragOverlay dropAnimation={null}>
          {dragged && (
            <div className={pictureCss.told} style={{ position: 'static', width: 'max-content' }}>
              {dragged.kind === 'layers' ? dragged.name : stepAt(dragged.use.step, dragged.use.version).title}
            </div>
          )}
        </DragOverlay>
      </DndContext>
    </section>
  )
})
