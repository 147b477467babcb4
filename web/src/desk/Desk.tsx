import { ActionIcon, Button, Menu, Modal, NumberInput, Progress, Text } from '@mantine/core'
import { ppiFor } from '@nimble-quill/core'
import { Dropzone } from '@mantine/dropzone'
import type { ArtworkHead, Photo } from '@nimble-quill/contracts'
import { IconDots, IconPhotoPlus, IconX } from '@tabler/icons-react'
import { useEffect, useState, type ReactNode } from 'react'
import { useNavigate } from 'react-router'
import { loadBench } from '../bench/load.ts'
import { PageHead } from '../parts/PageHead.tsx'
import { offerUndo, tell, tellTrouble } from '../parts/tell.tsx'
import {
  api,
  sentenceOf,
  useArtworksQuery,
  useCreateArtworkMutation,
  useDuplicateArtworkMutation,
  usePhotosQuery,
  useRemoveArtworkMutation,
  useRemovePhotoMutation,
  useRestoreArtworkMutation,
  useRestorePhotoMutation,
} from '../store/api.ts'
import { useAct } from '../store/store.ts'
import { upload } from './upload.ts'
import partsCss from '../parts/parts.module.css'
import deskCss from './desk.module.css'

interface Sending {
  key: number
  name: string
  share: number
  stop: () => void
}

let lastKey = 0

/** The first page: photographs and artworks. */
export function Desk() {
  const photos = usePhotosQuery()
  const artworks = useArtworksQuery(undefined, { refetchOnMountOrArgChange: true })
  const [create, creating] = useCreateArtworkMutation()
  const [sending, setSending] = useState<Sending[]>([])
  const act = useAct()
  const go = useNavigate()

  // while one looks round; where it cannot be had now, it is asked for again when it is needed
  const shown = photos.isSuccess && artworks.isSuccess
  useEffect(() => {
    if (shown) void loadBench().catch(() => undefined)
  }, [shown])

  const begin = (photo: Photo, print?: number) =>
    void create({ photo: photo.id, ...(print ? { print } : {}) })
      .unwrap()
      .then(
        (a) => go(`/bench/${a.id}`, { state: { picker: true } }),
        (e) => tellTrouble(sentenceOf(e)),
      )

  const add = (files: File[]) => {
    for (const file of files) {
      const key = ++lastKey
      const stopper = new AbortController()
      setSending((s) => [...s, { key, name: file.name, share: 0, stop: () => stopper.abort() }])
      upload(file, (share) => setSending((s) => s.map((x) => (x.key === key ? { ...x, share } : x))), stopper.signal)
        .then((photo) => {
          if (photos.data?.some((p) => p.id === photo.id)) tell(`“${file.name}” is on your desk already, as “${photo.name}”.`)
          act(api.util.invalidateTags(['photos']))
        })
        .catch((e: Error) => e.name !== 'AbortError' && tellTrouble(e.message, file.name))
        .finally(() => setSending((s) => s.filter((x) => x.key !== key)))
    }
  }

  const trouble = photos.error ?? artworks.error
  return (
    <div className={partsCss.page}>
      <PageHead />
      <main className={partsCss.body}>
        <h1 style={{ position: 'absolute', left: -9999 }}>Desk</h1>
        {trouble !== undefined && (
          <div role="alert" className={partsCss.empty} style={{ minHeight: 120 }}>
            <Text>{sentenceOf(trouble)}</Text>
            <Button
              onClick={() => {
                void photos.refetch()
                void artworks.refetch()
              }}
            >
              Try again
            </Button>
          </div>
        )}
        <h2>Artworks</h2>
        {artworks.data?.length === 0 && (
          <div className={partsCss.empty} style={{ minHeight: 130 }}>
            <Text>No artworks yet. {photos.data?.length ? 'Choose a photograph below to begin one.' : 'Drop a photograph below to begin one.'}</Text>
          </div>
        )}
        <div className={deskCss.shelf}>
          {artworks.data?.map((a) => (
            <ArtworkCard key={a.id} artwork={a} onOpen={() => void go(`/bench/${a.id}`)} />
          ))}
        </div>
        <h2>Photographs</h2>
        <div style={{ maxWidth: 560, marginTop: 12 }}>
          <Dropzone
            className={deskCss.drop}
            onDrop={add}
            multiple
            aria-label="Add photographs"
            styles={{ inner: { pointerEvents: 'none', display: 'flex', gap: 12, alignItems: 'center' } }}
          >
            <IconPhotoPlus size={22} stroke={1.5} />
            <div>
              <Text size="sm" fw={550}>
                Drop photographs here, or click to choose
              </Text>
              <Text size="xs" c="var(--faint)">
                JPEG, PNG or TIFF up to 150 megapixels; WebP, AVIF or GIF up to 50; 120 MB
              </Text>
            </div>
          </Dropzone>
          {sending.map((s) => (
            <div key={s.key} style={{ display: 'flex', alignItems: 'center', gap: 8, marginTop: 8 }} role="status">
              <Text size="sm" style={{ flex: 1, overflow: 'hidden', textOverflow: 'ellipsis', whiteSpace: 'nowrap' }}>
                {s.name}
              </Text>
              <Progress value={s.share * 100} w={160} animated={s.share === 1} aria-label={`Sending ${s.name}`} />
              <Text size="xs" c="var(--faint)" w={70}>
                {s.share < 1 ? `${Math.round(s.share * 100)} % sent` : 'developing'}
              </Text>
              <ActionIcon aria-label={`Stop sending ${s.name}`} onClick={s.stop}>
                <IconX size={15} />
              </ActionIcon>
            </div>
          ))}
        </div>
        <div className={deskCss.shelf}>
          {photos.data?.map((p) => (
            <PhotoCard key={p.id} photo={p} busy={creating.isLoading} onBegin={(print) => begin(p, print)} />
          ))}
        </div>
      </main>
    </div>
  )
}

interface CardProps {
  name: string
  picture: string
  /** What a click on the picture does, and how it is called. */
  open: { label: string; run: () => void; busy?: boolean }
  other: { label: string; run: () => void }
  onDelete: () => void
  children: ReactNode
}

/** A picture on the desk with its name, a menu, and a line about it. */
function Card({ name, picture, open, other, onDelete, children }: CardProps) {
  return (
    <article className={deskCss.card}>
      <button className={deskCss.sheet} onClick={open.run} disabled={open.busy} aria-label={`${open.label} ${name}`}>
        <img src={picture} alt="" loading="lazy" />
      </button>
      <div className={deskCss.name}>
        <span title={name}>{name}</span>
        <Menu position="bottom-end">
          <Menu.Target>
            <ActionIcon aria-label={`More for ${name}`}>
              <IconDots size={16} />
            </ActionIcon>
          </Menu.Target>
          <Menu.Dropdown>
            <Menu.Item onClick={other.run}>{other.label}</Menu.Item>
            <Menu.Item color="red" onClick={onDelete}>
              Delete
            </Menu.Item>
          </Menu.Dropdown>
        </Menu>
      </div>
      <Text size="xs" c="var(--faint)">
        {children}
      </Text>
    </article>
  )
}

const failed = (e: unknown) => tellTrouble(sentenceOf(e))

function ArtworkCard({ artwork, onOpen }: { artwork: ArtworkHead; onOpen: () => void }) {
  const [duplicate] = useDuplicateArtworkMutation()
  const [remove] = useRemoveArtworkMutation()
  const [restore] = useRestoreArtworkMutation()
  const { id, title } = artwork
  const undo = () => void restore(id).unwrap().catch(failed)
  return (
    <Card
      name={title}
      picture={`/api/artworks/${id}/thumbnail?r=${artwork.revision}`}
      open={{ label: 'Open', run: onOpen }}
      other={{ label: 'Duplicate', run: () => void duplicate(id).unwrap().catch(failed) }}
      onDelete={() =>
        void remove(id)
          .unwrap()
          .then(() => offerUndo(`“${title}” was deleted.`, undo), failed)
      }
    >
      {new Date(artwork.updatedAt).toLocaleString(undefined, { dateStyle: 'medium', timeStyle: 'short' })}
    </Card>
  )
}

function PhotoCard({ photo, busy, onBegin }: { photo: Photo; busy: boolean; onBegin: (print?: number) => void }) {
  const [asking, setAsking] = useState(false)
  const [remove] = useRemovePhotoMutation()
  const [restore] = useRestorePhotoMutation()
  const { id, name } = photo
  const undo = () => void restore(id).unwrap().catch(failed)
  return (
    <Card
      name={name}
      picture={`/api/photos/${id}/small/320`}
      open={{ label: 'Begin an artwork from', run: () => onBegin(), busy }}
      other={{ label: 'Begin at a print size …', run: () => setAsking(true) }}
      onDelete={() =>
        void remove(id)
          .unwrap()
          .then(() => offerUndo(`“${name}” was taken off the desk; artworks made from it stay as they are.`, undo), failed)
      }
    >
      {photo.width} × {photo.height} px{photo.depth === 16 ? ', 16-bit' : ''}
      {photo.alpha ? ', transparent' : ''}
      {asking && <PrintSize photo={photo} onClose={() => setAsking(false)} onBegin={onBegin} />}
    </Card>
  )
}

/** Asks how large a photo is to be on paper before an artwork is begun from it. */
function PrintSize({ photo, onClose, onBegin }: { photo: Photo; onClose: () => void; onBegin: (print: number) => void }) {
  const [side, setSide] = useState<number | string>(297)
  const { width, height } = photo
  const long = Math.max(width, height)
  const mm = typeof side === 'number' && side >= 1 ? side : null
  return (
    <Modal opened onClose={onClose} title={`Print size of ${photo.name}`} size={380}>
      <form
        onSubmit={(e) => {
          e.preventDefault()
          if (mm === null) return
          onClose()
          onBegin(mm)
        }}
      >
        <NumberInput
          label="Long side on paper"
          description="Pens, leads and teeth of paper are as broad as they are in the hand; the pixels stay as they are."
          suffix=" mm"
          min={1}
          max={20000}
          value={side}
          onChange={setSide}
          data-autofocus
        />
        <Text size="sm" mt={8}>
          {mm === null ? 'Say a length.' : `${Math.round((width / long) * mm)} × ${Math.round((height / long) * mm)} mm, ${ppiFor(long, mm)} ppi`}
        </Text>
        <Button type="submit" mt={12} disabled={mm === null}>
          Begin an artwork
        </Button>
      </form>
    </Modal>
  )
}
