import { ActionIcon, Button, Group, Loader, Modal, Stack, Table, Text, TextInput, Tooltip } from '@mantine/core'
import { loadArtwork, locate, perform, stepAt, type Artwork, type QuillError, type Target } from '@nimble-quill/core'
import { IconArrowBackUp, IconArrowForwardUp, IconKeyboard, IconPhotoDown } from '@tabler/icons-react'
import { memo, useCallback, useDeferredValue, useEffect, useMemo, useRef, useState } from 'react'
import { useHotkeys } from 'react-hotkeys-hook'
import { useLocation, useNavigate, useParams } from 'react-router'
import { EngineClient } from '../engine/client.ts'
import { PageHead } from '../parts/PageHead.tsx'
import { tell, tellTrouble } from '../parts/tell.tsx'
import { api, sentenceOf, useArtworkQuery, useCreateArtworkMutation } from '../store/api.ts'
import { useStore } from 'react-redux'
import { useAct, useApp, type RootState } from '../store/store.ts'
import { EngineContext } from './engine-context.ts'
import { Feed, FeedContext } from './feed.ts'
import { fateOf, forget, leftBehind, nameTab, Outbox, type Unsent } from './outbox.ts'
import { PictureView } from './PictureView.tsx'
import { ProcessSheet } from './ProcessSheet.tsx'
import { RenderDialog } from './RenderDialog.tsx'
import { SheetSize } from './SheetSize.tsx'
import { copySteps, pasting } from './clipboard.ts'
import { DropperContext, type Dropper } from './dropper.ts'
import { ProofSheet } from './ProofSheet.tsx'
import { choose, close, command, open, peek, redone, refusalTold, saveState, undone, type SaveState } from './slice.ts'
import { TuningColumn } from './TuningColumn.tsx'

const tab = nameTab()
const WHOLE: Target = { type: 'artwork' }

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
  ['Alt ↑ / ↓', 'Move the chosen layer'],
  ['Delete', 'Delete the chosen proof or layer'],
  ['A', 'Add a step'],
  ['Ctrl C / Ctrl V', 'Copy the chosen step or chain; put it in after the chosen proof'],
  ['E (hold)', 'The artwork without the chosen step'],
  ['D (hold)', 'The chosen step alone'],
  ['V', 'Values only'],
  ['M / R', 'Mirror the view, turn it by a quarter'],
  ['Shift R', 'Turn the view by 15°'],
  ['?', 'This list'],
]

/** The page where one artwork is worked on. */
export function Bench() {
  const { id } = useParams() as { id: string }
  return <BenchOf key={id} id={id} />
}

function BenchOf({ id }: { id: string }) {
  const act = useAct()
  const go = useNavigate()
  const { data, error, refetch } = useArtworkQuery(id, { refetchOnMountOrArgChange: true })
  const here = useLocation()
  const wantsPicker = (here.state as { picker?: boolean } | null)?.picker === true
  const opened = useApp((s) => s.bench.id)
  const artwork = useApp((s) => s.bench.history?.artwork)
  const [engine, setEngine] = useState<EngineClient | null>(null)
  const [outbox, setOutbox] = useState<Outbox | null>(null)
  const [unreadable, setUnreadable] = useState<string | null>(null)
  const [mine, setMine] = useState<{ document: Artwork; key: string | null; message: string } | null>(null)
  const [create] = useCreateArtworkMutation()

  useEffect(() => {
    const client = new EngineClient()
    client.onTrouble = tellTrouble
    setEngine(client)
    return () => client.close()
  }, [])

  // open the artwork, with what an earlier tab could not send
  const first = useRef(true)
  useEffect(() => {
    if (!data || !first.current) return
    first.current = false
    void (async () => {
      let document: Artwork
      try {
        const words: string[] = []
        document = loadArtwork(data.document, words)
        for (const word of words) tell(word)
      } catch (e) {
        setUnreadable((e as QuillError).message)
        return
      }
      let from: Unsent | null = null
      const left: string[] = []
      for (const { key, unsent } of await leftBehind(id).catch(() => [])) {
        const fate = fateOf(unsent, data)
        if (fate === 'taken') {
          await forget(key)
          continue
        }
        if (fate === 'follows') {
          // what a tab of another version left stays where it is, if it cannot be read
          try {
            document = loadArtwork(unsent.document)
          } catch (e) {
            setUnreadable((e as QuillError).message)
            return
          }
          from = unsent
          left.push(key)
        } else
          setMine({
            document: unsent.document,
            key,
            message: 'An earlier page was closed before its changes reached the server, and the artwork was changed elsewhere since.',
          })
      }
      const box = new Outbox(id, tab, data.revision, (news) => act(saveState(news)), from)
      setOutbox(box)
      act(open({ id, revision: data.revision, artwork: document, picker: wantsPicker, unsaved: from !== null }))
      if (from) {
        box.put(document)
        for (const key of left) await forget(key)
        tell('Changes that were not sent when the page was closed are back.')
      }
      window.history.replaceState(null, '')
    })()
  }, [data, id, act, wantsPicker])

  useEffect(
    () => () => {
      act(close())
    },
    [act],
  )
  useEffect(() => () => void outbox?.close().then(() => act(api.util.invalidateTags(['artworks']))), [outbox, act])

  // every change goes to the outbox
  const saved = useRef<Artwork | null>(null)
  useEffect(() => {
    if (!artwork || !outbox || opened !== id) return
    if (saved.current && saved.current !== artwork) outbox.put(artwork)
    saved.current = artwork
  }, [artwork, outbox, opened, id])

  const flush = useCallback(() => outbox?.flush() ?? Promise.resolve(false), [outbox])
  const save = useApp((s) => s.bench.save)
  const conflict = save.state === 'conflict' && artwork ? { document: artwork, key: null, message: save.message ?? '' } : mine
  const keepCopy = async () => {
    if (!conflict) return
    try {
      const copy = await create({ document: { ...conflict.document, title: `${conflict.document.title} (kept copy)`.slice(0, 200) } }).unwrap()
      if (conflict.key) await forget(conflict.key)
      else await outbox?.drop()
      setMine(null)
      tell('Your version was kept as a copy.')
      void go(`/bench/${copy.id}`)
    } catch (e) {
      tellTrouble(sentenceOf(e))
    }
  }
  const takeNewer = async () => {
    if (!conflict) return
    if (conflict.key) {
      await forget(conflict.key)
      setMine(null)
      return
    }
    await outbox?.drop()
    window.location.reload()
  }

  if (error !== undefined || unreadable) {
    return (
      <div className="page">
        <PageHead />
        <div className="empty" role="alert" style={{ flex: 1 }}>
          <div style={{ maxWidth: 460 }}>
            <h2 style={{ marginBottom: 8 }}>This artwork cannot be opened</h2>
            <Text>{unreadable ?? sentenceOf(error)}</Text>
            <Group justify="center" mt={14}>
              <Button onClick={() => void go('/')}>Back to the desk</Button>
              <Button variant="default" onClick={() => void refetch()}>
                Try again
              </Button>
            </Group>
          </div>
        </div>
      </div>
    )
  }
  if (!artwork || opened !== id || !engine || !outbox) {
    return (
      <div className="page">
        <PageHead />
        <div className="empty" style={{ flex: 1 }}>
          <Loader size="sm" aria-label="Opening the artwork" />
        </div>
      </div>
    )
  }
  return (
    <EngineContext.Provider value={engine}>
      <Working id={id} artwork={artwork} save={flush} />
      <Modal
        opened={conflict !== null}
        onClose={() => undefined}
        withCloseButton={false}
        title="Two versions of this artwork"
        closeOnEscape={false}
        closeOnClickOutside={false}
      >
        <Stack gap={14}>
          <Text size="sm">{conflict?.message}</Text>
          <Group gap={8}>
            <Button onClick={() => void keepCopy()}>Keep mine as a copy</Button>
            <Button variant="default" onClick={() => void takeNewer()}>
              Take the newer one
            </Button>
          </Group>
        </Stack>
      </Modal>
    </EngineContext.Provider>
  )
}

function Working({ id, artwork, save }: { id: string; artwork: Artwork; save: () => Promise<boolean> }) {
  const act = useAct()
  const dragging = useApp((s) => (s.bench.history!.done.at(-1)?.gesture ?? null) !== null)
  const tried = useApp((s) => s.bench.tried)
  const refusal = useApp((s) => s.bench.refusal)
  // proofs may lag behind a drag; the picture may not, nor may anything after a click
  const deferred = useDeferredValue(artwork)
  const late = dragging ? deferred : artwork
  const [feed] = useState(() => new Feed(artwork))
  useEffect(() => feed.set(artwork), [feed, artwork])
  const [hold, setHold] = useState<{ target: Target; note: string } | null>(null)
  const [rendering, setRendering] = useState(false)
  const choice = useApp((s) => s.bench.choice)
  const peeking = useApp((s) => s.bench.peek)
  const sheetOf = useApp((s) => s.bench.proofSheet)
  const peeked = useMemo(() => (peeking && choice?.type === 'step' ? peekAt(artwork, choice, peeking) : null), [artwork, choice, peeking])
  const [taking, setTaking] = useState<{ take: (hex: string) => void } | null>(null)
  const dropper = useMemo<Dropper>(
    () => ({
      asked: taking !== null,
      ask: (take) => setTaking({ take }),
      answer: (hex) => {
        setTaking(null)
        if (hex) taking?.take(hex)
      },
    }),
    [taking],
  )
  useEffect(() => {
    if (!refusal) return
    tellTrouble(refusal)
    act(refusalTold())
  }, [refusal, act])
  return (
    <FeedContext.Provider value={feed}>
      <DropperContext.Provider value={dropper}>
        <div className="page">
          <Head title={artwork.title} sheet={artwork.sheet} save={save} onRender={setRendering} />
          <main className="bench">
            <div className="stage">
              <PictureView
                artwork={peeked?.artwork ?? tried ?? artwork}
                target={hold?.target ?? peeked?.target ?? WHOLE}
                note={hold?.note ?? peeked?.note ?? (tried ? 'Trying; click keeps it' : null)}
              />
              <ProcessSheet artwork={late} onHold={setHold} />
            </div>
            <TuningColumn artwork={artwork} />
            {sheetOf && <ProofSheet artwork={artwork} at={sheetOf} />}
          </main>
          {rendering && <RenderDialog id={id} artwork={artwork} save={save} onClose={() => setRendering(false)} />}
        </div>
      </DropperContext.Provider>
    </FeedContext.Provider>
  )
}

/** The artwork without a step, or a step alone on its layer's source. */
function peekAt(artwork: Artwork, { layer: id, step }: { layer: string; step: string }, what: 'without' | 'alone') {
  const { layer } = locate(artwork.layers, id)
  const use = layer.chain.find((s) => s.id === step)
  if (!use) return null
  const { title } = stepAt(use.step, use.version)
  if (what === 'without')
    return { artwork: perform(artwork, { type: 'set-step', layer: id, step, on: false }).artwork, target: WHOLE, note: `Without ${title}` }
  let alone = artwork
  for (const s of layer.chain) if (s.id !== step && s.on) alone = perform(alone, { type: 'set-step', layer: id, step: s.id, on: false }).artwork
  return { artwork: alone, target: { type: 'chain', layer: id, steps: layer.chain.length } as Target, note: `${title} alone` }
}

/** Title, save state, undo and redo, render: by themselves, so that a drag does not draw them again. */
const Head = memo(function Head({
  title: given,
  sheet,
  save,
  onRender,
}: {
  title: string
  sheet: Artwork['sheet']
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
  useHotkeys('shift+slash', () => setListed(true), { useKey: false })
  useHotkeys('a', () => {
    const { history, choice } = store.getState().bench
    const layers = history?.artwork.layers ?? []
    const layer = choice && choice.type !== 'recipe' ? layers.find((l) => l.id === choice.layer) : layers.at(-1)
    if (layer) act({ type: 'bench/openPicker', payload: { layer: layer.id, index: layer.chain.length } })
  })
  const held = (e: KeyboardEvent, what: 'without' | 'alone') => {
    if (!e.repeat) act(peek(e.type === 'keydown' ? what : null))
  }
  useHotkeys('e', (e) => held(e, 'without'), { keydown: true, keyup: true })
  useHotkeys('d', (e) => held(e, 'alone'), { keydown: true, keyup: true })
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
  useHotkeys('mod+c', () => {
    // text that is marked is what is meant
    if (window.getSelection()?.toString()) return
    const now = chosen()
    if (!now) return
    const steps = now.at < 0 ? now.layer.chain : [now.layer.chain[now.at]!]
    if (steps.length === 0) return
    copySteps(steps)
    tell(`${steps.length === 1 ? stepAt(steps[0]!.step, steps[0]!.version).title : `${steps.length} steps`} copied.`)
  })
  useHotkeys('mod+v', () => {
    const now = chosen()
    if (!now) return
    const { commands, first } = pasting(now.layer.id, now.at < 0 ? now.layer.chain.length : now.at + 1)
    for (const c of commands) act(command({ command: c, gesture: `paste-${first}` }))
    if (first) act(choose({ type: 'step', layer: now.layer.id, step: first }))
  })
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
        <SheetSize sheet={sheet} />
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
