import { ActionIcon, Button, Menu, TextInput, Tooltip } from '@mantine/core'
import type { KeptValues } from '@nimble-quill/contracts'
import { stepAt, type StepUse } from '@nimble-quill/core'
import { IconBookmark, IconTrash } from '@tabler/icons-react'
import { useState } from 'react'
import { offerUndo, tell, tellTrouble } from '../../parts/tell.tsx'
import { sentenceOf, useForgetValuesMutation, useKeepValuesMutation, useKeptValuesQuery } from '../../store/api.ts'
import { useAct } from '../../store/store.ts'
import { command } from '../slice.ts'

/** The words of a menu of kept values. */
interface Words {
  /** Of the menu itself. */
  menu: string
  /** Of the field for a new name. */
  name: string
  /** What is kept, as a sentence begins: *The values are*. */
  these: string
}

/** Named values of a step. */
export function Presets({ layer, use }: { layer: string; use: StepUse }) {
  const act = useAct()
  return (
    <KeptMenu
      of={use.step}
      words={{ menu: 'Kept values', name: 'Name for these values', these: 'The values are' }}
      first={stepAt(use.step, use.version).defaults}
      present={use.params}
      onTake={(params, title) => act(command({ command: { type: 'set-params', layer, step: use.id, params, name: `values “${title}”` } }))}
    />
  )
}

/** Values under a name, of a step or of a brush: kept in the account, taken, forgotten. */
export function KeptMenu(p: {
  /** The step's id, or what else has values. */
  of: string
  words: Words
  /** As it came. */
  first: Record<string, unknown>
  /** What would be kept now. */
  present: Record<string, unknown>
  onTake: (params: Record<string, unknown>, title: string) => void
}) {
  const kept = (useKeptValuesQuery().data ?? []).filter((k) => k.step === p.of)
  const [keep] = useKeepValuesMutation()
  const [forget] = useForgetValuesMutation()
  const [name, setName] = useState('')
  const failed = (error: unknown) => tellTrouble(sentenceOf(error))
  const save = () => {
    const title = name.trim()
    if (!title) return
    const before = kept.find((k) => k.name === title)
    keep({ step: p.of, name: title, params: p.present })
      .unwrap()
      .then(() => {
        setName('')
        if (before) offerUndo(`What was kept as “${title}” is replaced.`, () => void put(before))
        else tell(`${p.words.these} kept as “${title}”.`)
      }, failed)
  }
  const put = ({ step, name, params }: KeptValues) => keep({ step, name, params }).unwrap().catch(failed)
  const drop = (k: KeptValues) => {
    forget(k.id)
      .unwrap()
      .then(() => offerUndo(`“${k.name}” is forgotten.`, () => void put(k)), failed)
  }
  return (
    <Menu position="bottom-end" width={230}>
      <Menu.Target>
        <Tooltip label={p.words.menu}>
          <ActionIcon aria-label={p.words.menu}>
            <IconBookmark size={17} />
          </ActionIcon>
        </Tooltip>
      </Menu.Target>
      <Menu.Dropdown mah={420} style={{ overflowY: 'auto' }}>
        <Menu.Item onClick={() => p.onTake(p.first, 'as it came')}>As it came</Menu.Item>
        {kept.map((k) => (
          <Menu.Item
            key={k.id}
            onClick={() => p.onTake(k.params, k.name)}
            rightSection={
              <IconTrash
                size={14}
                role="button"
                aria-label={`Forget “${k.name}”`}
                onClick={(e) => {
                  e.stopPropagation()
                  drop(k)
                }}
              />
            }
            // the keyboard's way to the sign at the end of the row
            onKeyDown={(e) => e.key === 'Delete' && drop(k)}
            aria-description="Delete forgets it"
          >
            {k.name}
          </Menu.Item>
        ))}
        <Menu.Divider />
        <div style={{ display: 'flex', gap: 4, padding: 6 }} onKeyDown={(e) => e.stopPropagation()}>
          <TextInput
            aria-label={p.words.name}
            placeholder={p.words.name}
            value={name}
            maxLength={60}
            style={{ flex: 1 }}
            onChange={(e) => setName(e.currentTarget.value)}
          />
          <Button onClick={save} disabled={!name.trim()}>
            Keep
          </Button>
        </div>
      </Menu.Dropdown>
    </Menu>
  )
}
