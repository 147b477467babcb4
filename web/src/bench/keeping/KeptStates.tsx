import { Button, Group, Loader, Stack, Text, TextInput } from '@mantine/core'
import type { StateHead } from '@nimble-quill/contracts'
import { loadArtwork, type Artwork } from '@nimble-quill/core'
import { useMemo, useState } from 'react'
import { useNavigate } from 'react-router'
import { tell, tellTrouble } from '../../parts/tell.tsx'
import { sentenceOf, useCreateArtworkMutation, useForgetStateMutation, useKeepStateMutation, useStateQuery, useStatesQuery } from '../../store/api.ts'
import { useAct, useApp } from '../../store/store.ts'
import { ProofPicture } from '../proofs/Proof.tsx'
import { command } from '../slice.ts'
import css from './keeping.module.css'
import { withParts } from './parts.ts'

/** Long side of the states' pictures, CSS pixels. */
const SIDE = 84

/** Gives the present state a name; one of the same name is replaced. */
export function NameState({ onDone }: { onDone: () => void }) {
  const id = useApp((s) => s.bench.id!)
  const artwork = useApp((s) => s.bench.history!.artwork)
  const [name, setName] = useState('')
  const [keep, { isLoading }] = useKeepStateMutation()
  const put = async () => {
    if (!name.trim()) return
    try {
      await withParts(() => keep({ artwork: id, name: name.trim(), document: artwork }).unwrap())
      tell(`“${name.trim()}” is kept.`)
      onDone()
    } catch (error) {
      tellTrouble(sentenceOf(error))
    }
  }
  return (
    <form
      onSubmit={(e) => {
        e.preventDefault()
        void put()
      }}
    >
      <Stack gap={12}>
        <TextInput label="Name of the state" data-autofocus value={name} maxLength={60} onChange={(e) => setName(e.currentTarget.value)} />
        <Group justify="flex-end">
          <Button type="submit" loading={isLoading} disabled={!name.trim()}>
            Keep it
          </Button>
        </Group>
      </Stack>
    </form>
  )
}

/** The states that were kept, in pictures: gone back to, opened as artworks of their own, forgotten. */
export function KeptStates({ sheet, onDone }: { sheet: Artwork['sheet']; onDone: () => void }) {
  const id = useApp((s) => s.bench.id!)
  const { data, error } = useStatesQuery(id)
  if (error) return <Text>{sentenceOf(error)}</Text>
  if (!data) return <Loader size="sm" />
  if (data.length === 0) return <Text c="var(--faint)">No state was kept yet. Keep one before you try something: it is found here again.</Text>
  return (
    <ul className={css.kept} aria-label="Kept states">
      {data.map((s) => (
        <KeptState key={s.id} artwork={id} state={s} sheet={sheet} onDone={onDone} />
      ))}
    </ul>
  )
}

function KeptState({ artwork, state, sheet, onDone }: { artwork: string; state: StateHead; sheet: Artwork['sheet']; onDone: () => void }) {
  const act = useAct()
  const go = useNavigate()
  const { data } = useStateQuery({ artwork, id: state.id })
  const [create] = useCreateArtworkMutation()
  const [forget] = useForgetStateMutation()
  const document = useMemo(() => {
    try {
      return data ? loadArtwork(data.document) : null
    } catch {
      return null
    }
  }, [data])
  const by = SIDE / Math.max(sheet.w, sheet.h)
  const copy = async () => {
    try {
      const made = await withParts(() => create({ document: { ...document, title: `${document!.title}, ${state.name}`.slice(0, 200) } }).unwrap())
      void go(`/bench/${made.id}`)
    } catch (error) {
      tellTrouble(sentenceOf(error))
    }
  }
  return (
    <li>
      <span className={css.picture}>
        {document && (
          <ProofPicture
            candidate={document}
            target={{ type: 'artwork' }}
            w={Math.round(sheet.w * by)}
            h={Math.round(sheet.h * by)}
            label={`State ${state.name}`}
          />
        )}
      </span>
      <Stack gap={4} style={{ flex: 1 }}>
        <Text size="sm" fw={600}>
          {state.name}
        </Text>
        <Text size="xs" c="var(--faint)">
          {new Date(state.createdAt).toLocaleString('en-GB', { dateStyle: 'medium', timeStyle: 'short' })}
        </Text>
        <Group gap={6}>
          <Button
            size="compact-xs"
            disabled={!document}
            onClick={() => {
              act(command({ command: { type: 'restore-state', state: document!, name: state.name } }))
              onDone()
            }}
          >
            Go back to it
          </Button>
          <Button size="compact-xs" variant="default" disabled={!document} onClick={() => void copy()}>
            Open as an artwork
          </Button>
          <Button
            size="compact-xs"
            variant="subtle"
            color="gray"
            onClick={() =>
              void forget({ artwork, id: state.id })
                .unwrap()
                .catch((error: unknown) => tellTrouble(sentenceOf(error)))
            }
          >
            Forget
          </Button>
        </Group>
      </Stack>
    </li>
  )
}
