import { Button, FileButton, Popover, Progress } from '@mantine/core'
import type { Photo } from '@nimble-quill/contracts'
import type { PictureRef } from '@nimble-quill/core'
import { IconPhotoPlus } from '@tabler/icons-react'
import { useRef, useState } from 'react'
import { useDispatch } from 'react-redux'
import { upload } from '../../../desk/upload.ts'
import { tellTrouble } from '../../../parts/tell.tsx'
import { api, usePhotosQuery } from '../../../store/api.ts'
import type { OnChange } from './on-change.ts'
import widgetsCss from './widgets.module.css'

/** A picture with the name that it has on the desk. */
export type Chosen = PictureRef & { name: string }
const chosenOf = ({ asset, width, height, name }: Photo): Chosen => ({ asset, width, height, name })

/** The pictures of the desk to choose from; a new one is then on the desk too. */
export function PictureChoice(p: { label: string; value: string | null; onTake: (picture: Chosen) => void; onNone?: (() => void) | undefined }) {
  const dispatch = useDispatch()
  const { data: photos = [] } = usePhotosQuery()
  const [sent, setSent] = useState<number | null>(null)
  const stop = useRef<AbortController | null>(null)
  const add = async (file: File | null) => {
    if (!file) return
    stop.current = new AbortController()
    setSent(0)
    try {
      const photo = await upload(file, setSent, stop.current.signal)
      dispatch(api.util.invalidateTags(['photos']))
      p.onTake(chosenOf(photo))
    } catch (error) {
      if ((error as Error).name !== 'AbortError') tellTrouble((error as Error).message)
    } finally {
      setSent(null)
    }
  }
  return (
    <>
      <div className={widgetsCss.pictureChoice} role="listbox" aria-label={p.label}>
        {photos.map((photo) => (
          <button
            key={photo.id}
            role="option"
            aria-selected={photo.asset === p.value}
            aria-label={photo.name}
            title={photo.name}
            onClick={() => p.onTake(chosenOf(photo))}
          >
            <img src={`/api/photos/${photo.id}/small/320`} alt="" loading="lazy" />
            <span>{photo.name.replace(/\.[a-z]+$/i, '')}</span>
          </button>
        ))}
      </div>
      {sent !== null && <Progress size="xs" mt={8} value={sent * 100} animated={sent === 1} aria-label="Adding the picture" />}
      <div style={{ display: 'flex', gap: 6, marginTop: 8 }}>
        <FileButton accept="image/*" onChange={(f) => void add(f)}>
          {(props) => (
            <Button size="compact-xs" variant="default" leftSection={<IconPhotoPlus size={14} />} disabled={sent !== null} {...props}>
              Add a picture
            </Button>
          )}
        </FileButton>
        {sent !== null && (
          <Button size="compact-xs" variant="subtle" onClick={() => stop.current?.abort()}>
            Stop
          </Button>
        )}
        {p.onNone && (
          <Button size="compact-xs" variant="subtle" onClick={p.onNone}>
            None
          </Button>
        )}
      </div>
    </>
  )
}

/** Another picture: one of the desk's, or a new one that is then on the desk too. */
export function PictureField({ label, value, onChange }: { label: string; value: PictureRef | null; onChange: OnChange<PictureRef | null> }) {
  const { data: photos = [] } = usePhotosQuery()
  const [open, setOpen] = useState(false)
  const chosen = photos.find((p) => p.asset === value?.asset)
  const take = (ref: PictureRef | null) => {
    setOpen(false)
    onChange(ref)
  }
  const name = chosen?.name ?? (value ? 'A picture no longer on the desk' : 'None')
  return (
    <Popover opened={open} onChange={setOpen} position="left-start" withinPortal trapFocus>
      <Popover.Target>
        <button className={widgetsCss.pictureField} aria-label={`${label}: ${name}`} onClick={() => setOpen(!open)}>
          {chosen ? <img src={`/api/photos/${chosen.id}/small/320`} alt="" /> : <span>Choose…</span>}
        </button>
      </Popover.Target>
      <Popover.Dropdown p={8}>
        <PictureChoice
          label={label}
          value={value?.asset ?? null}
          onTake={({ asset, width, height }) => take({ asset, width, height })}
          onNone={value ? () => take(null) : undefined}
        />
      </Popover.Dropdown>
    </Popover>
  )
}
