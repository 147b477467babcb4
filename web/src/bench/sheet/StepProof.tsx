import { useDraggable, useDroppable } from '@dnd-kit/core'
import { stepAt, type StepUse, type Target } from '@nimble-quill/core'
import { IconPlus } from '@tabler/icons-react'
import { memo, useState, type KeyboardEvent } from 'react'
import { useAct, useApp } from '../../store/store.ts'
import { ProofPicture } from '../proofs/Proof.tsx'
import { tell } from '../../parts/tell.tsx'
import { useMenu } from '../menu/menu.tsx'
import { choose, command, openPicker, openProofSheet } from '../slice.ts'
import { copySteps } from './clipboard.ts'
import type { OnHold } from './hold.ts'
import proofsCss from '../proofs/proofs.module.css'
import sheetCss from './sheet.module.css'

interface HeldProps {
  target: Target
  w: number
  h: number
  title: string
  pressed: boolean
  off?: boolean
  onPress: () => void
  onHold: OnHold
  onKeyDown?: (e: KeyboardEvent) => void
}

/** A proof: a click chooses, pressing and holding shows it large. */
export function HeldProof({ target, w, h, title, pressed, off, onPress, onHold, onKeyDown }: HeldProps) {
  const [timer, setTimer] = useState<ReturnType<typeof setTimeout> | null>(null)
  const release = () => {
    if (timer) clearTimeout(timer)
    setTimer(null)
    onHold(null)
  }
  return (
    <button
      className={proofsCss.proof}
      data-part="proof"
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
      <span className={proofsCss.cap} data-part="cap">
        {title}
      </span>
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
  onHold: OnHold
}

export const StepProof = memo(function StepProof({ layer, use, index, last, w, h, dragging, gapOpen, onHold }: StepProps) {
  const act = useAct()
  const chosen = useApp(({ bench: { choice } }) => choice?.type === 'step' && choice.step === use.id)
  const painted = useApp(({ hands: { held, on } }) => held === 'paint' && on?.step === use.id)
  const { title } = stepAt(use.step, use.version)
  const drag = useDraggable({ id: use.id, data: { kind: 'step', layer, step: use.id, index, use } })
  const set = (on: boolean) => act(command({ command: { type: 'set-step', layer, step: use.id, on } }))
  const moveTo = (to: number) => act(command({ command: { type: 'move-step', layer, step: use.id, toLayer: layer, index: to } }))
  const remove = () => act(command({ command: { type: 'remove-step', layer, step: use.id } }))
  const menu = useMenu()
  const keys = (e: KeyboardEvent) => {
    if (e.altKey && (e.key === 'ArrowLeft' || e.key === 'ArrowRight')) {
      e.preventDefault()
      const to = index + (e.key === 'ArrowLeft' ? -1 : 1)
      if (to >= 0 && (to < index || !last)) moveTo(to)
    } else if (e.key === 'Delete') remove()
  }
  return (
    <>
      <Gap layer={layer} index={index} dragging={dragging} open={gapOpen === index} />
      <div
        onContextMenu={(e) =>
          menu(e, title, [
            { label: 'On', on: use.on, run: () => set(!use.on) },
            { label: 'Proof sheet', run: () => act(openProofSheet({ layer, step: use.id, of: 'values' })) },
            { label: 'Proof sheet of blend modes', run: () => act(openProofSheet({ layer, step: use.id, of: 'modes' })) },
            { label: 'Proof sheet of orders', run: () => act(openProofSheet({ layer, step: null, of: 'orders' })) },
            {
              label: 'Copy',
              keys: 'Ctrl C',
              run: () => {
                copySteps([use])
                tell(`${title} is copied. Ctrl V puts it in after the chosen proof.`)
              },
            },
            'line',
            { label: 'Earlier', keys: 'Alt ←', disabled: index === 0, run: () => moveTo(index - 1) },
            { label: 'Later', keys: 'Alt →', disabled: last, run: () => moveTo(index + 1) },
            'line',
            { label: 'Delete', keys: 'Delete', run: remove },
          ])
        }
        className={sheetCss.held}
        data-part="held"
        ref={drag.setNodeRef}
        {...drag.listeners}
        data-step={use.step}
        data-painted={painted || undefined}
      >
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
        <label className={sheetCss.tick} onPointerDown={(e) => e.stopPropagation()}>
          <input type="checkbox" checked={use.on} aria-label={`${title} on`} onChange={(e) => set(e.currentTarget.checked)} />
        </label>
      </div>
    </>
  )
})

/** The space between two proofs: opens the picker, and takes a dragged step. */
export function Gap({ layer, index, dragging, open }: { layer: string; index: number; dragging: boolean; open: boolean }) {
  const act = useAct()
  const drop = useDroppable({ id: `gap:${layer}:${index}`, data: { kind: 'step', layer, index } })
  return (
    <button
      ref={drop.setNodeRef}
      className={sheetCss.gap}
      data-part="gap"
      data-wide={dragging || undefined}
      data-over={drop.isOver || open || undefined}
      aria-label={`Add a step at place ${index + 1}`}
      onClick={() => act(openPicker({ layer, index }))}
    >
      <IconPlus size={15} />
    </button>
  )
}
