import { useDraggable, useDroppable } from '@dnd-kit/core'
import { blendModeTitle, type Artwork } from '@nimble-quill/core'
import { ActionIcon, Tooltip } from '@mantine/core'
import { IconChevronDown, IconChevronRight, IconCornerLeftDown, IconEraser, IconFocus2, IconLock } from '@tabler/icons-react'
import { memo, type KeyboardEvent, type MouseEvent } from 'react'
import { useStore } from 'react-redux'
import { useAct, useApp, type RootState } from '../../store/store.ts'
import { useMenu } from '../menu/menu.tsx'
import { proofSize } from '../proofs/Proof.tsx'
import { usePaintOut } from '../hands/use-paint-out.ts'
import { choose, chooseAlso, chooseRun, command } from '../slice.ts'
import { entriesOf, stepped, type Entry } from './entries.ts'
import type { OnHold } from './hold.ts'
import { useLayerDeeds, withChosen } from './layer-deeds.tsx'
import { MARKS } from './marks.ts'
import { HeldProof, StepProof, Gap } from './StepProof.tsx'
import sheetCss from './sheet.module.css'

interface RowProps extends Entry {
  /** What it starts from, in words. */
  from: string
  sheet: Artwork['sheet']
  /** Its chain is shown large. */
  large: boolean
  dragging: boolean
  /** The gap the picker is open for. */
  gapOpen: number | null
  onHold: OnHold
}

/** How far a row in a group stands in, CSS pixels. */
const INDENT = 14

/** Drawn again only when its own layer changes: a drag changes one of them, many times a second. */
export const Row = memo(function Row({ layer, group, index, of, depth, follows, open, from, sheet, large, dragging, gapOpen, onHold }: RowProps) {
  const act = useAct()
  const chosen = useApp(({ bench: { choice } }) => choice?.type === 'layer' && choice.layer === layer.id)
  const retouched = useApp(({ bench: { history } }) => history?.artwork.recipes.some((r) => r.retouch?.above === layer.id) ?? false)
  const paintOut = usePaintOut()
  const painted = useApp(({ hands: { held, on } }) => held === 'paint' && on?.layer === layer.id && on.step === null)
  const blend = `${blendModeTitle(layer.blend)}, ${Math.round(layer.opacity * 100)} %`
  const proofs = useApp((s) => s.prefs.proofs)
  const { w, h } = proofSize(sheet, large ? 54 : 20, proofs)
  const also = useApp((s) => s.bench.also.includes(layer.id))
  const alone = useApp((s) => s.bench.alone === layer.id)
  const store = useStore<RootState>()
  const menu = useMenu()
  const deeds = useLayerDeeds()
  const isGroup = layer.source.type === 'group'
  const drag = useDraggable({ id: `row:${layer.id}`, data: { kind: 'layers', layer: layer.id, name: layer.name } })
  const into = useDroppable({
    id: `into:${layer.id}`,
    disabled: !isGroup,
    data: { kind: 'layers', group: layer.id, index: layer.source.type === 'group' ? layer.source.layers.length : 0 },
  })
  const entries = () => entriesOf(store.getState().bench.history!.artwork.layers)
  const keys = (e: KeyboardEvent) => {
    if (e.altKey && (e.key === 'ArrowUp' || e.key === 'ArrowDown')) {
      e.preventDefault()
      const to = stepped(entries(), { layer, group, index, of, depth, follows, open }, e.key === 'ArrowUp')
      if (to) act(command({ command: { type: 'move-layers', ...to } }))
    } else if (e.key === 'Delete') act(command({ command: { type: 'remove-layers', layers: withChosen(store.getState().bench, layer.id) } }))
    else if (isGroup && (e.key === 'ArrowLeft' || e.key === 'ArrowRight'))
      act(command({ command: { type: 'set-layer', layer: layer.id, folded: e.key === 'ArrowLeft' } }))
  }
  const press = (e: MouseEvent) => {
    if (e.ctrlKey || e.metaKey) act(chooseAlso(layer.id))
    else if (e.shiftKey) {
      const { choice } = store.getState().bench
      const ids = entries().map((x) => x.layer.id)
      const [i, j] = [ids.indexOf(choice && choice.type !== 'recipe' ? choice.layer : layer.id), ids.indexOf(layer.id)]
      act(chooseRun(ids.slice(Math.min(i, j), Math.max(i, j) + 1)))
    } else act(choose({ type: 'layer', layer: layer.id }))
  }
  const mark = layer.mark === null ? undefined : MARKS[layer.mark - 1]
  return (
    <div
      className={sheetCss.row}
      data-part="row"
      role="group"
      aria-label={`Layer ${layer.name}`}
      data-open={large || undefined}
      data-also={also || undefined}
      data-into={into.isOver || undefined}
      onContextMenu={(e) => {
        const { of: what, parts } = deeds(layer.id)
        menu(e, what, parts)
      }}
      style={{ marginLeft: INDENT * depth }}
      data-hidden={!layer.visible || undefined}
      data-painted={painted || undefined}
    >
      <div className={sheetCss.head} ref={into.setNodeRef}>
        {mark && <i className={sheetCss.mark} style={{ background: mark.colour }} role="img" aria-label={`Marked ${mark.name}`} />}
        {isGroup && (
          <ActionIcon
            size={20}
            aria-label={`${layer.folded ? 'Unfold' : 'Fold'} ${layer.name}`}
            aria-expanded={!layer.folded}
            onClick={() => act(command({ command: { type: 'set-layer', layer: layer.id, folded: !layer.folded } }))}
          >
            {layer.folded ? <IconChevronRight size={14} /> : <IconChevronDown size={14} />}
          </ActionIcon>
        )}
        {follows && <IconCornerLeftDown size={13} className={sheetCss.sign} aria-label="Follows the layer below" />}
        <button
          className={sheetCss.who}
          data-part="who"
          aria-pressed={chosen || also}
          ref={drag.setNodeRef}
          {...drag.listeners}
          onClick={press}
          onKeyDown={keys}
        >
          <span style={{ minWidth: 0, padding: '0 4px' }}>
            <b title={layer.name}>{layer.name}</b>
            <small>{isGroup && blend === 'Normal, 100 %' ? (open ? 'Open group' : 'Isolated group') : blend}</small>
            <small>from {from.replace(/^[A-Z]/, (c) => c.toLowerCase())}</small>
          </span>
        </button>
        {layer.locked && <IconLock size={13} className={sheetCss.sign} aria-label="Locked" />}
        {alone && <IconFocus2 size={13} className={sheetCss.sign} aria-label="Shown alone" />}
      </div>
      <div className={sheetCss.chain}>
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
        <span className={sheetCss.aside}>{blend}</span>
        {large && retouched && (
          <Tooltip label="Paint it out: white paint above these lines, below the paper">
            <ActionIcon aria-label="Paint it out" style={{ alignSelf: 'center' }} onClick={() => void paintOut(layer.id)}>
              <IconEraser size={17} />
            </ActionIcon>
          </Tooltip>
        )}
        <div className={sheetCss.end}>
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
