import { DndContext, DragOverlay, PointerSensor, TouchSensor, useDraggable, useDroppable, useSensor, useSensors, type DragEndEvent } from '@dnd-kit/core'
import { ActionIcon, Button, Menu, Popover, SegmentedControl, Stack, ColorPicker, TextInput, Tooltip } from '@mantine/core'
import { blendModeTitle, newLayer, stepAt, type Artwork, type Layer, type Source, type StepUse, type Target } from '@nimble-quill/core'
import { IconPlus, IconSearch } from '@tabler/icons-react'
import { memo, useEffect, useRef, useState, type KeyboardEvent, type PointerEvent } from 'react'
import { useHotkeys } from 'react-hotkeys-hook'
import { setPrefs } from '../store/prefs.ts'
import { useStore } from 'react-redux'
import { useAct, useApp, type RootState } from '../store/store.ts'
import { Picker } from './Picker.tsx'
import { ProofPicture, proofSize } from './Proof.tsx'
import { choose, command, openPicker } from './slice.ts'

const SOURCE_NAMES: Record<Source['type'], string> = {
  photo: 'Photo',
  'open-photo': 'Photo',
  fill: 'Fill',
  gradient: 'Gradient',
  paper: 'Paper',
  paint: 'Paint',
  ink: 'Ink',
  mend: 'Mended places',
  lettering: 'Lettering',
  panels: 'Panel sheet',
  below: 'What lies below',
  live: 'Live copy',
  group: 'Group',
}

/** What a layer starts from, in words. */
export function sourceName(artwork: Artwork, source: Source): string {
  if (source.type !== 'live') return SOURCE_NAMES[source.type]
  return `${artwork.layers.find((l) => l.id === source.layer)?.name ?? 'Layer'}, live`
}

interface Props {
  artwork: Artwork
  /** Shows a target large while a proof is held. */
  onHold: (hold: { target: Target; note: string } | null) => void
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

  const pull = (e: PointerEvent) => {
    if (e.type === 'pointerdown') e.currentTarget.setPointerCapture(e.pointerId)
    else if (e.buttons) act(setPrefs({ sheetHeight: Math.min(window.innerHeight - 320, Math.max(130, window.innerHeight - e.clientY)) }))
  }
  const pullByKey = (e: KeyboardEvent) => {
    const by = e.key === 'ArrowUp' ? 16 : e.key === 'ArrowDown' ? -16 : 0
    if (by) act(setPrefs({ sheetHeight: Math.min(window.innerHeight - 320, Math.max(130, height + by)) }))
  }

  if (away) return null
  const rows = [...artwork.layers].reverse()
  const rowOf = (layer: Layer) => ({ layer, index: artwork.layers.indexOf(layer), from: sourceName(artwork, layer.source), sheet: artwork.sheet, onHold })
  return (
    <section className="process" aria-label="Process sheet" style={picker ? { height: Math.max(height, 348) } : { maxHeight: height }}>
      <div
        className="pull"
        role="separator"
        aria-orientation="horizontal"
        aria-label="Height of the process sheet"
        tabIndex={0}
        onPointerDown={pull}
        onPointerMove={pull}
        onKeyDown={pullByKey}
      />
      <div className="bar">
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
          <div className="rows">
            {rows.map((l) => (
              <Row key={l.id} {...rowOf(l)} open={l.id === open} dragging={dragged !== null} gapOpen={null} />
            ))}
          </div>
        )}
        <DragOverlay dropAnimation={null}>
          {dragged && (
            <div className="told" style={{ position: 'static', width: 'max-content' }}>
              {stepAt(dragged.step, dragged.version).title}
            </div>
          )}
        </DragOverlay>
      </DndContext>
    </section>
  )
})

interface RowProps {
  layer: Layer
  /** Its place from the bottom. */
  index: number
  /** What it starts from, in words. */
  from: string
  sheet: Artwork['sheet']
  open: boolean
  dragging: boolean
  /** The gap the picker is open for. */
  gapOpen: number | null
  onHold: Props['onHold']
}

/** Drawn again only when its own layer changes: a drag changes one of them, many times a second. */
const Row = memo(function Row({ layer, index, from, sheet, open, dragging, gapOpen, onHold }: RowProps) {
  const act = useAct()
  const chosen = useApp(({ bench: { choice } }) => choice?.type === 'layer' && choice.layer === layer.id)
  const blend = `${blendModeTitle(layer.blend)}, ${Math.round(layer.opacity * 100)} %`
  const proofs = useApp((s) => s.prefs.proofs)
  const { w, h } = proofSize(sheet, open ? 54 : 20, proofs)
  const keys = (e: KeyboardEvent) => {
    if (e.altKey && (e.key === 'ArrowUp' || e.key === 'ArrowDown')) {
      e.preventDefault()
      act(command({ command: { type: 'move-layer', layer: layer.id, index: index + (e.key === 'ArrowUp' ? 1 : -1) } }))
    } else if (e.key === 'Delete') act(command({ command: { type: 'remove-layer', layer: layer.id } }))
  }
  return (
    <div className="row" role="group" aria-label={`Layer ${layer.name}`} data-open={open || undefined} data-hidden={!layer.visible || undefined}>
      <button className="who" aria-pressed={chosen} onClick={() => act(choose({ type: 'layer', layer: layer.id }))} onKeyDown={keys}>
        <span style={{ minWidth: 0, padding: '0 4px' }}>
          <b title={layer.name}>{layer.name}</b>
          <small>{blend}</small>
          <small>from {from.replace(/^[A-Z]/, (c) => c.toLowerCase())}</small>
        </span>
      </button>
      <div className="chain">
        <HeldProof
          target={{ type: 'chain', layer: layer.id, steps: 0 }}
          w={w}
          h={h}
          title={from}
          pressed={chosen}
          onPress={() => act(choose({ type: 'layer', layer: layer.id }))}
          onHold={onHold}
        />
        {layer.chain.map((use, i) => (
          <StepProof
            key={use.id}
            layer={layer.id}
            use={use}
            index={i}
            last={i === layer.chain.length - 1}
            w={w}
            h={h}
            dragging={dragging}
            gapOpen={gapOpen}
            onHold={onHold}
          />
        ))}
        <Gap layer={layer.id} index={layer.chain.length} dragging={dragging} open={gapOpen === layer.chain.length} />
      </div>
      <div style={{ display: 'flex' }}>
        <span className="aside">{blend}</span>
        <div className="end">
          <HeldProof
            target={{ type: 'sheet', layer: layer.id }}
            w={w}
            h={h}
            title="Sheet so far"
            pressed={false}
            onPress={() => act(choose({ type: 'layer', layer: layer.id }))}
            onHold={onHold}
          />
        </div>
      </div>
    </div>
  )
})

interface HeldProps {
  target: Target
  w: number
  h: number
  title: string
  pressed: boolean
  off?: boolean
  onPress: () => void
  onHold: Props['onHold']
  onKeyDown?: (e: KeyboardEvent) => void
}

/** A proof: a click chooses, pressing and holding shows it large. */
function HeldProof({ target, w, h, title, pressed, off, onPress, onHold, onKeyDown }: HeldProps) {
  const [timer, setTimer] = useState<ReturnType<typeof setTimeout> | null>(null)
  const release = () => {
    if (timer) clearTimeout(timer)
    setTimer(null)
    onHold(null)
  }
  return (
    <button
      className="proof"
      aria-pressed={pressed}
      data-off={off || undefined}
      onClick={onPress}
      onPointerDown={() => setTimer(setTimeout(() => onHold({ target, note: title }), 280))}
      onPointerUp={release}
      onPointerLeave={() => timer && release()}
      onPointerMove={(e) => (Math.abs(e.movementX) + Math.abs(e.movementY) > 3 && timer ? release() : undefined)}
      {...(onKeyDown ? { onKeyDown } : {})}
    >
      <ProofPicture target={target} w={w} h={h} label={`${title}, proof`} />
      <span className="cap">{title}</span>
    </button>
  )
}

interface StepProps {
  layer: string
  use: StepUse
  index: number
  last: boolean
  w: number
  h: number
  dragging: boolean
  gapOpen: number | null
  onHold: Props['onHold']
}

const StepProof = memo(function StepProof({ layer, use, index, last, w, h, dragging, gapOpen, onHold }: StepProps) {
  const act = useAct()
  const chosen = useApp(({ bench: { choice } }) => choice?.type === 'step' && choice.step === use.id)
  const { title } = stepAt(use.step, use.version)
  const drag = useDraggable({ id: use.id, data: { layer, step: use.id, index, use } })
  const set = (on: boolean) => act(command({ command: { type: 'set-step', layer, step: use.id, on } }))
  const keys = (e: KeyboardEvent) => {
    if (e.altKey && (e.key === 'ArrowLeft' || e.key === 'ArrowRight')) {
      e.preventDefault()
      const to = index + (e.key === 'ArrowLeft' ? -1 : 1)
      if (to >= 0 && (to < index || !last)) act(command({ command: { type: 'move-step', layer, step: use.id, toLayer: layer, index: to } }))
    } else if (e.key === 'Delete') act(command({ command: { type: 'remove-step', layer, step: use.id } }))
  }
  return (
    <>
      <Gap layer={layer} index={index} dragging={dragging} open={gapOpen === index} />
      <div className="held" ref={drag.setNodeRef} {...drag.listeners} data-step={use.step}>
        <HeldProof
          target={{ type: 'chain', layer, steps: index + 1 }}
          w={w}
          h={h}
          title={title}
          pressed={chosen}
          off={!use.on}
          onPress={() => act(choose({ type: 'step', layer, step: use.id }))}
          onHold={onHold}
          onKeyDown={keys}
        />
        <label className="tick" onPointerDown={(e) => e.stopPropagation()}>
          <input type="checkbox" checked={use.on} aria-label={`${title} on`} onChange={(e) => set(e.currentTarget.checked)} />
        </label>
      </div>
    </>
  )
})

/** The space between two proofs: opens the picker, and takes a dragged step. */
function Gap({ layer, index, dragging, open }: { layer: string; index: number; dragging: boolean; open: boolean }) {
  const act = useAct()
  const drop = useDroppable({ id: `gap:${layer}:${index}`, data: { layer, index } })
  return (
    <button
      ref={drop.setNodeRef}
      className="gap"
      data-wide={dragging || undefined}
      data-over={drop.isOver || open || undefined}
      aria-label={`Add a step at place ${index + 1}`}
      onClick={() => act(openPicker({ layer, index }))}
    >
      <IconPlus size={15} />
    </button>
  )
}

/** Drawn once: what it needs of the artwork it asks for when it is opened. */
const AddLayer = memo(function AddLayer({ chosen }: { chosen: string | undefined }) {
  const act = useAct()
  const store = useStore<RootState>()
  const [colour, setColour] = useState('#f4ead2')
  const [asking, setAsking] = useState(false)
  const [layers, setLayers] = useState<readonly Layer[]>([])
  const look = () => setLayers(store.getState().bench.history?.artwork.layers ?? [])
  const under = layers.find((l) => l.id === chosen)
  const photo = layers.find((l) => l.source.type === 'photo')?.source
  const add = (name: string, source: Source) => {
    const layer = newLayer(name, source)
    act(command({ command: { type: 'add-layer', layer, index: under ? layers.indexOf(under) + 1 : layers.length } }))
    act(choose({ type: 'layer', layer: layer.id }))
  }
  return (
    <>
      <Popover opened={asking} onChange={setAsking} position="top-end" trapFocus>
        <Popover.Target>
          <span />
        </Popover.Target>
        <Popover.Dropdown>
          <Stack gap={8}>
            <ColorPicker format="hex" value={colour} onChange={setColour} saturationLabel="Saturation and lightness" hueLabel="Hue" />
            <TextInput label="Colour of the fill" value={colour} onChange={(e) => setColour(e.currentTarget.value)} />
            <Button
              onClick={() => {
                setAsking(false)
                if (/^#[0-9a-f]{6}$/i.test(colour)) add('Fill', { type: 'fill', colour, alpha: 1 })
              }}
            >
              Add fill
            </Button>
          </Stack>
        </Popover.Dropdown>
      </Popover>
      <Menu position="top-end" onOpen={look}>
        <Menu.Target>
          <Button variant="default" size="compact-xs" leftSection={<IconPlus size={13} />}>
            Layer
          </Button>
        </Menu.Target>
        <Menu.Dropdown>
          <Menu.Label>A new layer above the chosen one, from</Menu.Label>
          {photo && <Menu.Item onClick={() => add('Photo', photo)}>The photo</Menu.Item>}
          {under && <Menu.Item onClick={() => add(`${under.name}, live`.slice(0, 120), { type: 'live', layer: under.id })}>“{under.name}”, live</Menu.Item>}
          <Menu.Item onClick={() => add('Below', { type: 'below' })}>What lies below</Menu.Item>
          <Menu.Item onClick={() => setAsking(true)}>A fill …</Menu.Item>
        </Menu.Dropdown>
      </Menu>
    </>
  )
})

/** Layer actions that stand in the tuning column's head. */
export function LayerAction({ label, onClick, children }: { label: string; onClick: () => void; children: React.ReactNode }) {
  return (
    <Tooltip label={label}>
      <ActionIcon aria-label={label} onClick={onClick}>
        {children}
      </ActionIcon>
    </Tooltip>
  )
}
