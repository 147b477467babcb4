import { ActionIcon, Popover, ScrollArea, Text, Tooltip } from '@mantine/core'
import { pointsOf, type Artwork } from '@nimble-quill/core'
import { IconHistory } from '@tabler/icons-react'
import { useState } from 'react'
import { useAct, useApp } from '../../store/store.ts'
import { ProofPicture } from '../proofs/Proof.tsx'
import { jumped } from '../slice.ts'
import css from './keeping.module.css'

/** States that are shown; older ones are reached by undoing. */
const MOST = 60
/** Long side of their pictures, CSS pixels. */
const SIDE = 44

/** What was done, by name and in small pictures, the newest first: any state is gone to. */
export function HistoryList({ sheet }: { sheet: Artwork['sheet'] }) {
  const [open, setOpen] = useState(false)
  return (
    <Popover opened={open} onChange={setOpen} position="bottom-end" width={300} withinPortal>
      <Popover.Target>
        <Tooltip label="History" disabled={open}>
          <ActionIcon aria-label="History" aria-expanded={open} onClick={() => setOpen(!open)}>
            <IconHistory size={18} />
          </ActionIcon>
        </Tooltip>
      </Popover.Target>
      <Popover.Dropdown p={0}>{open && <States sheet={sheet} />}</Popover.Dropdown>
    </Popover>
  )
}

function States({ sheet }: { sheet: Artwork['sheet'] }) {
  const act = useAct()
  const history = useApp((s) => s.bench.history!)
  const points = pointsOf(history, MOST)
  const now = history.done.length
  const by = SIDE / Math.max(sheet.w, sheet.h)
  return (
    <ScrollArea.Autosize mah={520} type="auto">
      <ul className={css.states} aria-label="States">
        {points.map((p) => (
          <li key={p.done}>
            <button
              type="button"
              className={css.state}
              aria-current={p.done === now || undefined}
              data-ahead={p.done > now || undefined}
              onClick={() => act(jumped(p.done))}
            >
              <span className={css.small}>
                <ProofPicture
                  candidate={p.artwork}
                  target={{ type: 'artwork' }}
                  w={Math.max(1, Math.round(sheet.w * by))}
                  h={Math.max(1, Math.round(sheet.h * by))}
                  label=""
                />
              </span>
              <span>{p.title ?? 'As it was opened'}</span>
            </button>
          </li>
        ))}
      </ul>
      {now >= MOST && (
        <Text size="xs" c="var(--faint)" p={8}>
          Older states: undo further.
        </Text>
      )}
    </ScrollArea.Autosize>
  )
}
