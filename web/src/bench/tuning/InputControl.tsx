import { Select } from '@mantine/core'
import { allLayers, stepAt, type Artwork, type StepUse } from '@nimble-quill/core'
import { useAct } from '../../store/store.ts'
import { command } from '../slice.ts'
import { Frame } from './Frame.tsx'

type Input = StepUse['inputs'][string]

/** Chooses another picture that a step reads: a layer, or what it was after one of its steps. */
export function InputControl(p: { artwork: Artwork; layer: string; use: StepUse; name: string; title: string; help: string; onHelp: (t: string) => void }) {
  const act = useAct()
  const given = p.use.inputs[p.name]
  const others = [...allLayers(p.artwork.layers)].filter((l) => l.id !== p.layer).reverse()
  const value = given?.type === 'layer' ? nameOf(given) : null
  const groups = others.map((l) => ({
    group: l.name,
    items: [
      { value: nameOf({ type: 'layer', layer: l.id, steps: null }), label: l.name },
      ...l.chain
        .map((s, i) => ({ value: nameOf({ type: 'layer', layer: l.id, steps: i + 1 }), label: `${l.name}, after ${stepAt(s.step, s.version).title}` }))
        .slice(0, -1),
    ],
  }))
  return (
    <Frame
      label={p.title}
      help={p.help}
      onHelp={p.onHelp}
      field={
        <Select
          w={152}
          aria-label={p.title}
          placeholder={others.length ? 'None' : 'There is no other layer'}
          clearable
          data={groups}
          value={value}
          onChange={(v) =>
            act(command({ command: { type: 'set-input', layer: p.layer, step: p.use.id, input: p.name, value: v === null ? null : inputOf(v) } }))
          }
          styles={{ input: { height: 26, minHeight: 26 } }}
          comboboxProps={{ width: 240, position: 'bottom-end' }}
        />
      }
    />
  )
}

const nameOf = (input: Extract<Input, { type: 'layer' }>): string => `${input.layer} ${input.steps ?? 'all'}`
function inputOf(name: string): Input {
  const [layer, steps] = name.split(' ') as [string, string]
  return { type: 'layer', layer, steps: steps === 'all' ? null : Number(steps) }
}
