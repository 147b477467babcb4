import { Checkbox, Text } from '@mantine/core'
import { blendModes, blendModeTitle, locate, perform, stepAt, type Artwork, type Command } from '@nimble-quill/core'
import { useMemo, useState } from 'react'
import { useAct } from '../../store/store.ts'
import { command, openProofSheet } from '../slice.ts'
import { CellSheet } from './Cells.tsx'

/** Steps whose orders are laid out at once: 24 of four. */
const MOST = 4

/** Every order of a list, the one that it has first. */
export function ordersOf<T>(list: readonly T[]): T[][] {
  if (list.length < 2) return [[...list]]
  return list.flatMap((first, i) => ordersOf([...list.slice(0, i), ...list.slice(i + 1)]).map((rest) => [first, ...rest]))
}

/** A layer or step in every blend mode, or the chosen steps of a layer in every order, over the whole bench. */
export function WaySheet({ artwork, at }: { artwork: Artwork; at: { layer: string; step: string | null; of: 'modes' | 'orders' } }) {
  const act = useAct()
  const [large, setLarge] = useState<number | null>(null)
  const { layer } = locate(artwork.layers, at.layer)
  const titleOf = (id: string) => {
    const use = layer.chain.find((s) => s.id === id)!
    return stepAt(use.step, use.version).title
  }
  const steps = layer.chain.filter((s) => s.on).map((s) => s.id)
  const [chosen, setChosen] = useState<readonly string[]>(() => steps.slice(-3))
  const cells = useMemo(() => {
    const made = (name: string, c: Command) => ({ name, command: c, made: perform(artwork, c).artwork })
    if (at.of === 'modes')
      return blendModes.map((blend) =>
        made(
          blendModeTitle(blend),
          at.step === null ? { type: 'set-layer', layer: at.layer, blend } : { type: 'set-step', layer: at.layer, step: at.step, blend },
        ),
      )
    const inOrder = steps.filter((id) => chosen.includes(id))
    return ordersOf(inOrder).map((order) => made(order.map(titleOf).join(' → '), { type: 'order-steps', layer: at.layer, steps: order }))
    // the artwork stays as it is while the sheet is open
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [artwork, at, chosen])
  const what = at.of === 'modes' ? `Blend of ${at.step === null ? layer.name : titleOf(at.step)}` : `Orders of the steps of ${layer.name}`
  return (
    <CellSheet
      artwork={artwork}
      name={what}
      title={what}
      all={cells}
      large={large}
      onLarge={setLarge}
      onTake={(i) => {
        act(command({ command: cells[i]!.command }))
        act(openProofSheet(null))
      }}
      bar={
        at.of === 'orders' &&
        steps.map((id) => (
          <Checkbox
            key={id}
            size="xs"
            label={titleOf(id)}
            checked={chosen.includes(id)}
            disabled={!chosen.includes(id) && chosen.length >= MOST}
            onChange={(e) => {
              setLarge(null)
              setChosen(e.currentTarget.checked ? [...chosen, id] : chosen.filter((c) => c !== id))
            }}
          />
        ))
      }
    >
      {at.of === 'orders' && chosen.length < 2 && <Text c="var(--faint)">Choose two steps at least.</Text>}
    </CellSheet>
  )
}
