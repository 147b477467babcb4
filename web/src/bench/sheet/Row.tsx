import { blendModeTitle, type Artwork, type Layer } from '@nimble-quill/core'
import { ActionIcon, Tooltip } from '@mantine/core'
import { IconEraser } from '@tabler/icons-react'
import { memo, type KeyboardEvent } from 'react'
import { useAct, useApp } from '../../store/store.ts'
import { proofSize } from '../proofs/Proof.tsx'
import { usePaintOut } from '../hands/use-paint-out.ts'
import { choose, command } from '../slice.ts'
import type { OnHold } from './hold.ts'
import { HeldProof, StepProof, Gap } from './StepProof.tsx'
import sheetCss from './sheet.module.css'

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
  onHold: OnHold
}

/** Drawn again only when its own layer changes: a drag changes one of them, many times a second. */
export const Row = memo(function Row({ layer, index, from, sheet, open, dragging, gapOpen, onHold }: RowProps) {
  const act = useAct()
  const chosen = useApp(({ bench: { choice } }) => choice?.type === 'layer' && choice.layer === layer.id)
  const retouched = useApp(({ bench: { history } }) => history?.artwork.recipes.some((r) => r.retouch?.above === layer.id) ?? false)
  const paintOut = usePaintOut()
  const painted = useApp(({ hands: { held, on } }) => held === 'paint' && on?.layer === layer.id && on.step === null)
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
    <div
      className={sheetCss.row}
      data-part="row"
      role="group"
      aria-label={`Layer ${layer.name}`}
      data-open={open || undefined}
      data-hidden={!layer.visible || undefined}
      data-painted={painted || undefined}
    >
      <button className={sheetCss.who} data-part="who" aria-pressed={chosen} onClick={() => act(choose({ type: 'layer', layer: layer.id }))} onKeyDown={keys}>
        <span style={{ minWidth: 0, padding: '0 4px' }}>
          <b title={layer.name}>{layer.name}</b>
          <small>{blend}</small>
          <small>from {from.replace(/^[A-Z]/, (c) => c.toLowerCase())}</small>
        </span>
      </button>
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
        {open && retouched && (
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
