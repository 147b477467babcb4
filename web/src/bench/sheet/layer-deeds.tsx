import { ActionIcon } from '@mantine/core'
import { freshId, locate, type Artwork, type Command, type Layer } from '@nimble-quill/core'
import { IconX } from '@tabler/icons-react'
import { useStore } from 'react-redux'
import { useAct, type RootState } from '../../store/store.ts'
import type { MenuPart } from '../menu/menu.tsx'
import { choose, command, openProofSheet, setAlone } from '../slice.ts'
import { mergedName, useMerge } from './use-merge.ts'
import { takePlace } from '../hands/slice.ts'
import { MARKS } from './marks.ts'

/** Layers that something is done to: the one it was asked of, with the others that are chosen where it is one of them. */
export function withChosen(bench: RootState['bench'], layer: string): string[] {
  const main = bench.choice && bench.choice.type !== 'recipe' ? bench.choice.layer : null
  const all = main ? [main, ...bench.also] : bench.also
  return all.includes(layer) && all.length > 1 ? all : [layer]
}

/** What can be done to a layer, or to all that are chosen, as a menu. */
export function useLayerDeeds(): (layer: string) => { of: string; parts: MenuPart[] } {
  const act = useAct()
  const store = useStore<RootState>()
  const merge = useMerge()
  const perform = (c: Command, gesture?: string) => act(command({ command: c, ...(gesture ? { gesture } : {}) }))
  return (id) => {
    const { bench } = store.getState()
    const artwork = bench.history!.artwork as Artwork
    const ids = withChosen(bench, id)
    const { layer, index, list } = locate(artwork.layers as Layer[], id)
    const one = ids.length === 1
    // what is done to several is one entry of the history
    const each = (make: (layer: string) => Command) => {
      const gesture = ids.length > 1 ? `layers-${freshId()}` : undefined
      for (const l of ids) perform(make(l), gesture)
    }
    const live = layer.source.type === 'live'
    const parts: MenuPart[] = [
      { label: 'Alone', on: bench.alone === id, disabled: !one, run: () => act(setAlone(bench.alone === id ? null : id)) },
      { label: 'Proof sheet of blend modes', disabled: !one, run: () => act(openProofSheet({ layer: id, step: null, of: 'modes' })) },
      {
        label: 'Proof sheet of orders',
        disabled: !one || layer.chain.filter((s) => s.on).length < 2,
        run: () => act(openProofSheet({ layer: id, step: null, of: 'orders' })),
      },
      { label: 'Shown', on: layer.visible, run: () => each((l) => ({ type: 'set-layer', layer: l, visible: !layer.visible })) },
      { label: 'Locked', on: layer.locked, run: () => each((l) => ({ type: 'set-layer', layer: l, locked: !layer.locked })) },
      {
        label: 'Follows the layer below',
        on: layer.followsBelow,
        disabled: index === 0 || list.length < 2,
        run: () => each((l) => ({ type: 'set-layer', layer: l, followsBelow: !layer.followsBelow })),
      },
      {
        own: (close) => (
          <div role="group" aria-label="Mark" style={{ display: 'flex', gap: 2, padding: '4px 10px' }}>
            {MARKS.map(({ name, colour }, i) => (
              <ActionIcon
                key={name}
                size={22}
                aria-label={`Mark ${name}`}
                aria-pressed={layer.mark === i + 1}
                onClick={() => {
                  each((l) => ({ type: 'set-layer', layer: l, mark: layer.mark === i + 1 ? null : i + 1 }))
                  close()
                }}
              >
                <i style={{ width: 14, height: 14, borderRadius: 7, background: colour, outline: layer.mark === i + 1 ? '2px solid var(--ink)' : 'none' }} />
              </ActionIcon>
            ))}
            <ActionIcon
              size={22}
              aria-label="No mark"
              onClick={() => {
                each((l) => ({ type: 'set-layer', layer: l, mark: null }))
                close()
              }}
            >
              <IconX size={14} />
            </ActionIcon>
          </div>
        ),
      },
      'line',
      {
        label: one ? 'Into a group' : `${ids.length} layers into a group`,
        keys: 'Shift G',
        run: () => {
          const group = freshId()
          perform({ type: 'group-layers', layers: ids, group, name: 'Group' })
          act(choose({ type: 'layer', layer: group }))
        },
      },
      ...(one && layer.source.type === 'group' ? [{ label: 'Take the group apart', run: () => perform({ type: 'ungroup', layer: id }) }] : []),
      'line',
      {
        label: one ? 'Place' : `Place ${ids.length} layers`,
        keys: 'L',
        run: () => {
          if (one) act(choose({ type: 'layer', layer: id }))
          act(takePlace())
        },
      },
      'line',
      { label: 'Duplicate', run: () => each((l) => ({ type: 'duplicate-layer', layer: l })) },
      { label: 'Duplicate, live', run: () => each((l) => ({ type: 'duplicate-layer', layer: l, live: true })) },
      ...(one && live ? [{ label: 'Make it its own', run: () => perform({ type: 'make-own', layer: id }) }] : []),
      'line',
      {
        label: one ? 'Make it pixels' : `Merge ${ids.length} layers`,
        disabled: one && layer.source.type === 'paint' && layer.chain.length === 0,
        run: () => void merge({ layers: ids, name: mergedName(artwork, ids) }),
      },
      {
        label: 'Flatten all',
        disabled: artwork.layers.length < 2,
        run: () => void merge({ layers: artwork.layers.map((l) => l.id), name: 'Flattened' }),
      },
      { label: 'Flattened copy on top', run: () => void merge('copy') },
      'line',
      { label: one ? 'Delete' : `Delete ${ids.length} layers`, keys: 'Delete', run: () => perform({ type: 'remove-layers', layers: ids }) },
    ]
    return { of: one ? `Layer ${layer.name}` : `${ids.length} layers`, parts }
  }
}
