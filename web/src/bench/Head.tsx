import { ActionIcon, Button, Modal, Table, Text, TextInput, Tooltip } from '@mantine/core'
import { allLayers, locate, stepAt, type Artwork } from '@nimble-quill/core'
import { IconArrowBackUp, IconArrowForwardUp, IconKeyboard, IconPhotoDown } from '@tabler/icons-react'
import { memo, useEffect, useState } from 'react'
import { useHotkeys } from 'react-hotkeys-hook'
import { takesText, useKeys } from '../parts/keys.ts'
import { useStore } from 'react-redux'
import { PageHead } from '../parts/PageHead.tsx'
import { tell } from '../parts/tell.tsx'
import { useAct, useApp, type RootState } from '../store/store.ts'
import { copySteps, pasting } from './sheet/clipboard.ts'
import { pastedAt } from './sheet/DropPictures.tsx'
import { choose, command, peek, redone, undone, type SaveState } from './slice.ts'
import { KeepMenu } from './keeping/KeepMenu.tsx'
import { HistoryList } from './keeping/HistoryList.tsx'
import { SheetSize } from './tuning/SheetSize.tsx'

const SAVE_TEXT: Record<SaveState, string> = {
  saved: 'Saved',
  unsaved: 'Saving soon',
  saving: 'Saving',
  away: 'Server away; kept in this browser',
  refused: 'Not saved; kept in this browser',
  conflict: 'Changed elsewhere',
}

const SHORTCUTS: [string, string][] = [
  ['Ctrl Z / Ctrl Shift Z', 'Undo, redo'],
  ['O (hold)', 'See the photo'],
  ['W', 'Wipe line: upright, level, off'],
  ['H (hold)', 'Hide the process sheet'],
  ['0 / 1', 'Whole sheet, 100 %'],
  ['+ / −', 'Zoom in, out'],
  ['← ↑ → ↓', 'Pan, with the picture in focus'],
  ['Alt ← / →', 'Move the chosen proof'],
  ['Alt ↑ / ↓', 'Move the chosen layer, at the end out of its group'],
  ['Delete', 'Delete the chosen proof or layers'],
  ['Ctrl click, Shift click', 'Choose a layer besides, or all up to it'],
  ['Shift G', 'Put the chosen layers into a group'],
  ['← / →', 'Fold a group, unfold it, with its row in focus'],
  ['Menu key', 'What can be done to a row, a proof or the picture'],
  ['A', 'Add a step'],
  ['Ctrl C / Ctrl V', 'Copy the chosen step or chain; put it in after the chosen proof'],
  ['E (hold)', 'The artwork without the chosen step or layer'],
  ['D (hold)', 'The chosen step or layer alone'],
  ['V', 'Values only'],
  ['P', 'Take up the brush, or put it down'],
  ['K', 'Take up the pen for ink, or put it down'],
  ['N', 'Take up the hand that mends, or put it down; C (hold): where to take from'],
  ['S', 'Take up the hand for areas, or put it down; T: add, take away, share'],
  ['L', 'Place the chosen layers, or put them down; arrow keys move them by a pixel'],
  ['Esc', 'Put the hand down'],
  ['T', 'Brush: let through or take away, lay or erase'],
  [', / .', 'Brush: thinner, broader'],
  ['C / L (hold)', 'Brush: pick a colour, a straight line'],
  ['Space, G (hold)', 'Brush: move the view'],
  ['M / R', 'Mirror the view, turn it by a quarter'],
  ['Shift R', 'Turn the view by 15°'],
  ['?', 'This list'],
]

/** Title, save state, undo and redo, render: by themselves, so that a drag does not draw them again. */
export const Head = memo(function Head({
  title: given,
  sheet,
  stock,
  save,
  onRender,
}: {
  title: string
  sheet: Artwork['sheet']
  stock: Artwork['stock']
  save: () => Promise<boolean>
  onRender: (on: boolean) => void
}) {
  const act = useAct()
  const store = useStore<RootState>()
  const state = useApp((s) => s.bench.save.state)
  const message = useApp((s) => s.bench.save.message)
  const undoTitle = useApp((s) => s.bench.history!.done.at(-1)?.title)
  const redoTitle = useApp((s) => s.bench.history!.undone.at(-1)?.title)
  const [listed, setListed] = useState(false)
  const [title, setTitle] = useState(given)
  useEffect(() => setTitle(given), [given])
  useEffect(() => {
    document.title = `${given} – Nimble Quill`
    return () => {
      document.title = 'Nimble Quill'
    }
  }, [given])
  useHotkeys('mod+z', () => act(undone()), { preventDefault: true, enableOnFormTags: ['INPUT'] })
  useHotkeys('mod+shift+z,mod+y', () => act(redone()), { preventDefault: true, enableOnFormTags: ['INPUT'] })
  useHotkeys('mod+s', () => void save(), { preventDefault: true, enableOnFormTags: true })
  useEffect(() => {
    // wherever the focus is: ticks, sliders and lists are fields of no text
    const ask = (e: globalThis.KeyboardEvent) => {
      if (e.key === '?' && !e.ctrlKey && !e.metaKey && !takesText(e.target as Element)) setListed(true)
    }
    window.addEventListener('keydown', ask, true)
    return () => window.removeEventListener('keydown', ask, true)
  }, [])
  useKeys('a', () => {
    const { history, choice } = store.getState().bench
    const layers = history?.artwork.layers ?? []
    const layer = choice && choice.type !== 'recipe' ? [...allLayers(layers)].find((l) => l.id === choice.layer) : layers.at(-1)
    if (layer) act({ type: 'bench/openPicker', payload: { layer: layer.id, index: layer.chain.length } })
  })
  const held = (e: KeyboardEvent, what: 'without' | 'alone') => {
    if (!e.repeat) act(peek(e.type === 'keydown' ? what : null))
  }
  useKeys('e', (e) => held(e, 'without'), { keydown: true, keyup: true })
  useKeys('d', (e) => held(e, 'alone'), { keydown: true, keyup: true })
  useEffect(() => {
    // a key let go outside the window is not told
    const release = () => act(peek(null))
    window.addEventListener('blur', release)
    return () => window.removeEventListener('blur', release)
  }, [act])
  const chosen = () => {
    const { history, choice } = store.getState().bench
    if (!history || !choice || choice.type === 'recipe') return null
    const { layer } = locate(history.artwork.layers, choice.layer)
    const at = choice.type === 'step' ? layer.chain.findIndex((s) => s.id === choice.step) : -1
    return { layer, at }
  }
  useKeys('mod+c', () => {
    // text that is marked is what is meant
    if (window.getSelection()?.toString()) return
    const now = chosen()
    if (!now) return
    const steps = now.at < 0 ? now.layer.chain : [now.layer.chain[now.at]!]
    if (steps.length === 0) return
    copySteps(steps)
    tell(`${steps.length === 1 ? stepAt(steps[0]!.step, steps[0]!.version).title : `${steps.length} steps`} copied.`)
  })
  useKeys('mod+v', () => {
    const now = chosen()
    if (!now) return
    // a picture that is pasted by the same keys comes instead
    const asked = performance.now()
    setTimeout(() => pastedAt() < asked && pasteSteps(now), 60)
  })
  const pasteSteps = (now: NonNullable<ReturnType<typeof chosen>>) => {
    const { commands, first } = pasting(now.layer.id, now.at < 0 ? now.layer.chain.length : now.at + 1)
    for (const c of commands) act(command({ command: c, gesture: `paste-${first}` }))
    if (first) act(choose({ type: 'step', layer: now.layer.id, step: first }))
  }
  const rename = () => {
    if (title.trim() && title !== given) act(command({ command: { type: 'set-title', title } }))
    else setTitle(given)
  }
  return (
    <>
      <PageHead
        end={
          <>
            <Text
              size="xs"
              c={state === 'saved' || state === 'saving' || state === 'unsaved' ? 'var(--faint)' : 'var(--loss)'}
              role="status"
              aria-label="Save state"
              title={message ?? ''}
              data-save={state}
            >
              {SAVE_TEXT[state]}
            </Text>
            <Tooltip label={undoTitle ? `Undo: ${undoTitle}` : 'Nothing to undo'}>
              <ActionIcon aria-label={undoTitle ? `Undo: ${undoTitle}` : 'Undo'} disabled={!undoTitle} onClick={() => act(undone())}>
                <IconArrowBackUp size={18} />
              </ActionIcon>
            </Tooltip>
            <Tooltip label={redoTitle ? `Redo: ${redoTitle}` : 'Nothing to redo'}>
              <ActionIcon aria-label={redoTitle ? `Redo: ${redoTitle}` : 'Redo'} disabled={!redoTitle} onClick={() => act(redone())}>
                <IconArrowForwardUp size={18} />
              </ActionIcon>
            </Tooltip>
            <HistoryList sheet={sheet} />
            <KeepMenu sheet={sheet} />
            <Button leftSection={<IconPhotoDown size={15} />} onClick={() => onRender(true)}>
              Render
            </Button>
            <Tooltip label="Shortcuts (?)">
              <ActionIcon aria-label="Shortcuts" onClick={() => setListed(true)}>
                <IconKeyboard size={17} />
              </ActionIcon>
            </Tooltip>
          </>
        }
      >
        <TextInput
          aria-label="Title of the artwork"
          variant="unstyled"
          value={title}
          maxLength={200}
          onChange={(e) => setTitle(e.currentTarget.value)}
          onBlur={rename}
          onKeyDown={(e) => e.key === 'Enter' && e.currentTarget.blur()}
          w={260}
          styles={{ input: { fontWeight: 600, fontSize: 14 } }}
        />
        <SheetSize sheet={sheet} stock={stock} />
      </PageHead>
      <Modal opened={listed} onClose={() => setListed(false)} title="Shortcuts" size={420}>
        <Table>
          <Table.Tbody>
            {SHORTCUTS.map(([keys, what]) => (
              <Table.Tr key={keys}>
                <Table.Td>
                  <kbd>{keys}</kbd>
                </Table.Td>
                <Table.Td>{what}</Table.Td>
              </Table.Tr>
            ))}
          </Table.Tbody>
        </Table>
      </Modal>
    </>
  )
})
