import { DndContext, DragOverlay, PointerSensor, TouchSensor, useSensor, useSensors, type DragEndEvent } from '@dnd-kit/core'
import { Button, SegmentedControl, TextInput } from '@mantine/core'
import { stepAt, type Artwork, type Layer, type StepUse } from '@nimble-quill/core'
import { IconSearch } from '@tabler/icons-react'
import { memo, useEffect, useRef, useState, type KeyboardEvent } from 'react'
import { useHotkeys } from 'react-hotkeys-hook'
import { setPrefs } from '../../store/prefs.ts'
import { useHandle } from '../../parts/use-handle.ts'
import { useAct, useApp } from '../../store/store.ts'
import { Picker } from '../proofs/Picker.tsx'
import { choose, command, openPicker } from '../slice.ts'
import { AddLayer } from './AddLayer.tsx'
import type { OnHold } from './hold.ts'
import { Row } from './Row.tsx'
import { sourceName } from './source-name.ts'
import sheetCss from './sheet.module.css'
import pictureCss from '../picture/picture.module.css'

interface Props {
  artwork: Artwork
  onHold: OnHold
}

/** The score of the artwork: a row a layer, top layer uppermost; in the row a picture after each step. */
export const ProcessSheet = memo(function ProcessSheet({ artwork, onHold }: Props) {
  const act = useAct()
  const choice = useApp((s) => s.bench.choice)
  const picker = useApp((s) => s.bench.picker)
  const proofs = useApp((s) => s.prefs.proofs)
  const height = useApp((s) => s.prefs.sheetHeight)
  const [away, setAway] = useState(false)
  const [search, setSearch] = useState('')
  const takeFirst = useRef<() => void>(() => undefined)
  useEffect(() => setSearch(''), [picker])
  const [dragged, setDragged] = useState<StepUse | null>(null)
  // a drag starts after 6 px (touch: after a hold), so that a click stays a click
  const sensors = useSensors(
    useSensor(PointerSensor, { activationConstraint: { distance: 6 } }),
    useSensor(TouchSensor, { activationConstraint: { delay: 250, tolerance: 6 } }),
  )
  useHotkeys('h', (e) => setAway(e.type === 'keydown'), { keydown: true, keyup: true })

  const recipeUse = choice?.type === 'recipe' ? artwork.recipes.find((r) => r.id === choice.use) : undefined
  const open = picker?.layer ?? (choice && choice.type !== 'recipe' ? choice.layer : artwork.layers.at(-1)?.id)

  const dropped = (e: DragEndEvent) => {
    setDragged(null)
    const from = e.active.data.current as { layer: string; step: string; index: number } | undefined
    const to = e.over?.data.current as { layer: string; index: number } | undefined
    if (!from || !to) return
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
  const rows = [...artwork.layers].reverse()
  const rowOf = (layer: Layer) => ({ layer, index: artwork.layers.indexOf(layer), from: sourceName(artwork, layer.source), sheet: artwork.sheet, onHold })
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
        <SegmentedControl
          size="xs"
          aria-label="Small pictures show"
          value={proofs}
          onChange={(v) => act(setPrefs({ proofs: v as 'whole' | 'spot' }))}
          data={[
            { value: 'whole', label: 'Whole' },
            { value: 'spot', label: 'Look spot, 100 %' },
          ]}
        />
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
        onDragStart={(e) => setDragged((e.active.data.current as { use: StepUse }).use)}
        onDragEnd={dropped}
        onDragCancel={() => setDragged(null)}
      >
        {picker ? (
          <>
            <div style={{ padding: '0 10px 4px' }}>
              {rows
                .filter((l) => l.id === picker.layer)
                .map((l) => (
                  <Row key={l.id} {...rowOf(l)} open dragging={false} gapOpen={picker.index} />
                ))}
            </div>
            <Picker artwork={artwork} gap={picker} search={search} takeFirst={takeFirst} />
          </>
        ) : (
          <div className={sheetCss.rows}>
            {rows.map((l) => (
              <Row key={l.id} {...rowOf(l)} open={l.id === open} dragging={dragged !== null} gapOpen={null} />
            ))}
          </div>
        )}
        <DragOverlay dropAnimation={null}>
          {dragged && (
            <div className={pictureCss.told} style={{ position: 'static', width: 'max-content' }}>
              {stepAt(dragged.step, dragged.version).title}
            </div>
          )}
        </DragOverlay>
      </DndContext>
    </section>
  )
})
