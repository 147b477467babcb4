import { ActionIcon, Menu, Tooltip } from '@mantine/core'
import { loadArtwork, pointsOf, type Artwork, type Target } from '@nimble-quill/core'
import { IconChevronDown } from '@tabler/icons-react'
import { useStore } from 'react-redux'
import { tellTrouble } from '../../parts/tell.tsx'
import { api, sentenceOf, useArtworksQuery, useStatesQuery } from '../../store/api.ts'
import { useAct, useApp, type RootState } from '../../store/store.ts'

/** What the artwork is compared with. */
export interface Against {
  name: string
  target: Target
  /** null: the artwork on the bench. */
  artwork: Artwork | null
}
export const AGAINST_PHOTO: Against = { name: 'The photo', target: { type: 'photo' }, artwork: null }
/** Artworks that are offered, the latest. */
const OTHERS = 12

/** Chooses what stands on the other side of the wipe line: the photo, a row, an earlier or a kept state, another artwork. */
export function CompareMenu({ against, onTake }: { against: Against; onTake: (a: Against) => void }) {
  return (
    <Menu position="bottom-start" withinPortal>
      <Menu.Target>
        <Tooltip label={`Compared with: ${against.name}`}>
          <ActionIcon aria-label={`Compared with: ${against.name}`} w={18}>
            <IconChevronDown size={13} />
          </ActionIcon>
        </Tooltip>
      </Menu.Target>
      <Menu.Dropdown mah={420} style={{ overflowY: 'auto' }}>
        <Choices onTake={onTake} />
      </Menu.Dropdown>
    </Menu>
  )
}

function Choices({ onTake }: { onTake: (a: Against) => void }) {
  const act = useAct()
  const store = useStore<RootState>()
  const id = useApp((s) => s.bench.id!)
  const history = useApp((s) => s.bench.history!)
  const { data: states = [] } = useStatesQuery(id)
  const { data: artworks = [] } = useArtworksQuery()
  const whole = (name: string, artwork: Artwork) => onTake({ name, target: { type: 'artwork' }, artwork })
  const fetched = async (name: string, read: () => Promise<unknown>) => {
    try {
      whole(name, loadArtwork(await read()))
    } catch (error) {
      tellTrouble(sentenceOf(error))
    }
  }
  return (
    <>
      <Menu.Item onClick={() => onTake(AGAINST_PHOTO)}>The photo</Menu.Item>
      <Menu.Item
        onClick={() => {
          const points = pointsOf(store.getState().bench.history!, Infinity)
          whole('As it was opened', points.at(-1)!.artwork)
        }}
      >
        As it was opened
      </Menu.Item>
      <Menu.Item onClick={() => whole('As it is now', history.artwork)}>As it is now, held fast</Menu.Item>
      <Menu.Label>Rows, each with what lies below</Menu.Label>
      {[...history.artwork.layers].reverse().map((l) => (
        <Menu.Item key={l.id} onClick={() => onTake({ name: `Up to ${l.name}`, target: { type: 'sheet', layer: l.id }, artwork: null })}>
          {l.name}
        </Menu.Item>
      ))}
      {states.length > 0 && <Menu.Label>Kept states</Menu.Label>}
      {states.map((s) => (
        <Menu.Item
          key={s.id}
          onClick={() => void fetched(s.name, async () => (await act(api.endpoints.state.initiate({ artwork: id, id: s.id })).unwrap()).document)}
        >
          {s.name}
        </Menu.Item>
      ))}
      {artworks.length > 1 && <Menu.Label>Other artworks</Menu.Label>}
      {artworks
        .filter((a) => a.id !== id)
        .slice(0, OTHERS)
        .map((a) => (
          <Menu.Item key={a.id} onClick={() => void fetched(a.title, async () => (await act(api.endpoints.artwork.initiate(a.id)).unwrap()).document)}>
            {a.title}
          </Menu.Item>
        ))}
    </>
  )
}
