import { ActionIcon, Button, Menu, TextInput } from '@mantine/core'
import type { KeptValues } from '@nimble-quill/contracts'
import { stepAt, type StepUse } from '@nimble-quill/core'
import { IconBookmark, IconTrash } from '@tabler/icons-react'
import { useState } from 'react'
import { offerUndo, tell, tellTrouble } from '../../parts/tell.tsx'
import { sentenceOf, useForgetValuesMutation, useKeepValuesMutation, useKeptValuesQuery } from '../../store/api.ts'
import { useAct } from '../../store/store.ts'
import { command } from '../slice.ts'

/** Named values of a step: saved, taken, forgotten. */
export function Presets({ layer, use }: { layer: string; use: StepUse }) {
  const act = useAct()
  const def = stepAt(use.step, use.version)
  const kept = (useKeptValuesQuery().data ?? []).filter((k) => k.step === use.step)
  const [keep] = useKeepValuesMutation()
  const [forget] = useForgetValuesMutation()
  const [name, setName] = useState('')
  const take = (params: Record<string, unknown>, title: string) =>
    act(command({ command: { type: 'set-params', layer, step: use.id, params, name: `values “${title}”` } }))
  const failed = (error: unknown) => tellTrouble(sentenceOf(error))
  const save = () => {
    const title = name.trim()
    if (!title) return
    const before = kept.find((p) => p.name === title)
    keep({ step: use.step, name: title, params: use.params })
      .unwrap()
      .then(() => {
        setName('')
        if (before) offerUndo(`The values kept as “${title}” are replaced.`, () => void put(before))
        else tell(`The values are kept as “${title}”.`)
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
        <ActionIcon aria-label="Kept values" title="Kept values">
          <IconBookmark size={17} />
        </ActionIcon>
      </Menu.Target>
      <Menu.Dropdown>
        <Menu.Item onClick={() => take(def.defaults, 'as it came')}>As it came</Menu.Item>
        {kept.map((p) => (
          <Menu.Item
            key={p.id}
            onClick={() => take(p.params, p.name)}
            rightSection={
              <IconTrash
                size={14}
                role="button"
                aria-label={`Forget “${p.name}”`}
                onClick={(e) => {
                  e.stopPropagation()
                  drop(p)
                }}
              />
            }
          >
            {p.name}
          </Menu.Item>
        ))}
        <Menu.Divider />
        <div style={{ display: 'flex', gap: 4, padding: 6 }} onKeyDown={(e) => e.stopPropagation()}>
          <TextInput
            aria-label="Name for these values"
            placeholder="Name for these values"
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
