import { Button, Group, Loader, Modal, Stack, Text } from '@mantine/core'
import { loadArtwork, type Artwork, type QuillError } from '@nimble-quill/core'
import { useCallback, useEffect, useRef, useState } from 'react'
import { useLocation, useNavigate, useParams } from 'react-router'
import { EngineClient } from '../engine/client.ts'
import { PageHead } from '../parts/PageHead.tsx'
import { tell, tellTrouble } from '../parts/tell.tsx'
import { api, sentenceOf, useArtworkQuery, useCreateArtworkMutation } from '../store/api.ts'
import { useAct, useApp } from '../store/store.ts'
import { Working } from './Working.tsx'
import { EngineContext } from './engine-context.ts'
import { fateOf, forget, leftBehind, nameTab, Outbox, type Unsent } from './keeping/outbox.ts'
import { withParts } from './keeping/parts.ts'
import { close, open, saveState } from './slice.ts'
import partsCss from '../parts/parts.module.css'

const tab = nameTab()

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
      const document = { ...conflict.document, title: `${conflict.document.title} (kept copy)`.slice(0, 200) }
      const copy = await withParts(() => create({ document }).unwrap())
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
      <div className={partsCss.page}>
        <PageHead />
        <div className={partsCss.empty} role="alert" style={{ flex: 1 }}>
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
      <div className={partsCss.page}>
        <PageHead />
        <div className={partsCss.empty} style={{ flex: 1 }}>
          <Loader size="sm" aria-label="Opening the artwork" />
        </div>
      </div>
    )
  }
  return (
    <EngineContext.Provider value={engine}>
      <Working id={id} tab={tab} artwork={artwork} save={flush} />
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
