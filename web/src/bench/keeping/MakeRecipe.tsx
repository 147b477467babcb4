import { Button, Checkbox, Group, NumberInput, ScrollArea, Stack, Switch, Text, TextInput } from '@mantine/core'
import { choosableOf, MOST_CONTROLS, ownRecipe, type Choosable, type Chosen, type QuillError } from '@nimble-quill/core'
import { useMemo, useState } from 'react'
import { tell, tellTrouble } from '../../parts/tell.tsx'
import { sentenceOf, useKeepRecipeMutation } from '../../store/api.ts'
import { useApp } from '../../store/store.ts'
import css from './keeping.module.css'

const keyOf = (c: Choosable) => `${c.layer} ${c.step} ${c.param}`

/** Makes a recipe of the artwork: its title, and which values become controls, between which ends. */
export function MakeRecipe({ onDone }: { onDone: () => void }) {
  const artwork = useApp((s) => s.bench.history!.artwork)
  const all = useMemo(() => choosableOf(artwork), [artwork])
  const [title, setTitle] = useState(artwork.title.slice(0, 120))
  const [help, setHelp] = useState('')
  const [search, setSearch] = useState('')
  const [kept, setKept] = useState(artwork.recipes.length > 0)
  const [chosen, setChosen] = useState<ReadonlyMap<string, Chosen>>(new Map())
  const [keep, { isLoading }] = useKeepRecipeMutation()
  const words = search.trim().toLowerCase()
  const found = all.filter((c) => !words || `${c.where} ${c.title}`.toLowerCase().includes(words))
  const change = (c: Choosable, next: Chosen | null) =>
    setChosen((was) => {
      const now = new Map(was)
      if (next) now.set(keyOf(c), next)
      else now.delete(keyOf(c))
      return now
    })
  const make = async () => {
    try {
      const recipe = ownRecipe(artwork, { title, help, controls: [...chosen.values()], keep: kept })
      const made = await keep({ recipe }).unwrap()
      tell(`“${made.title}” stands in the picker now, for every photo.`)
      onDone()
    } catch (error) {
      tellTrouble((error as QuillError).message ?? sentenceOf(error))
    }
  }
  return (
    <Stack gap={12}>
      <Group gap={10} align="flex-start" grow>
        <TextInput label="Title" data-autofocus value={title} maxLength={120} onChange={(e) => setTitle(e.currentTarget.value)} />
        <TextInput label="What it does" value={help} maxLength={400} onChange={(e) => setHelp(e.currentTarget.value)} />
      </Group>
      <Text size="xs" c="var(--faint)">
        The photo is left open, what is painted stays behind, pixels become shares of the photo. Tick the values that are to be its own controls.
      </Text>
      {artwork.recipes.length > 0 && (
        <Switch size="xs" label="Keep the controls of the recipe it was made with" checked={kept} onChange={(e) => setKept(e.currentTarget.checked)} />
      )}
      <TextInput size="xs" aria-label="Search values" placeholder="Search values" value={search} onChange={(e) => setSearch(e.currentTarget.value)} />
      <ScrollArea.Autosize mah={300} type="auto">
        <ul className={css.values} aria-label="Values">
          {found.map((c) => (
            <Value key={keyOf(c)} value={c} chosen={chosen.get(keyOf(c)) ?? null} onChange={(next) => change(c, next)} />
          ))}
        </ul>
      </ScrollArea.Autosize>
      <Group justify="space-between">
        <Text size="xs" c="var(--faint)">
          {chosen.size} of at most {MOST_CONTROLS} controls
        </Text>
        <Button loading={isLoading} disabled={!title.trim()} onClick={() => void make()}>
          Make the recipe
        </Button>
      </Group>
    </Stack>
  )
}

/** One value: whether it becomes a control, what that is called, and its ends. */
function Value({ value: v, chosen, onChange }: { value: Choosable; chosen: Chosen | null; onChange: (c: Chosen | null) => void }) {
  const { layer, step, param, title, help, number } = v
  const start: Chosen = { layer, step, param, title, help, ...(number && { ends: { low: number.low, high: number.high } }) }
  const name = `${v.where}: ${title}`
  const end = (which: 'low' | 'high', label: string) => (
    <NumberInput
      size="xs"
      w={96}
      label={label}
      aria-label={`${name}, ${label.toLowerCase()}`}
      suffix={number!.unit ? ` ${number!.unit}` : ''}
      value={chosen!.ends![which]}
      decimalScale={4}
      hideControls
      onChange={(x) => typeof x === 'number' && onChange({ ...chosen!, ends: { ...chosen!.ends!, [which]: x } })}
    />
  )
  return (
    <li>
      <Checkbox
        size="xs"
        label={
          <>
            <span className={css.where}>{v.where}</span> {title}
          </>
        }
        aria-label={name}
        checked={chosen !== null}
        onChange={(e) => onChange(e.currentTarget.checked ? start : null)}
      />
      {chosen && (
        <Group gap={8} mt={4} ml={24} align="flex-end">
          <TextInput
            size="xs"
            w={150}
            label="Called"
            aria-label={`${name}, called`}
            value={chosen.title}
            maxLength={60}
            onChange={(e) => onChange({ ...chosen, title: e.currentTarget.value })}
          />
          {chosen.ends && end('low', 'From')}
          {chosen.ends && end('high', 'To')}
        </Group>
      )}
    </li>
  )
}
