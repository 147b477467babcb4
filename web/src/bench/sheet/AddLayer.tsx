import { Button, Menu, Popover, Stack, ColorPicker, TextInput } from '@mantine/core'
import { allLayers, newGradient, newLayer, type Layer, type Source } from '@nimble-quill/core'
import { IconPlus } from '@tabler/icons-react'
import { memo, useState } from 'react'
import { useStore } from 'react-redux'
import { useAct, type RootState } from '../../store/store.ts'
import { paintOn } from '../hands/slice.ts'
import { choose, command } from '../slice.ts'
import { placeAbove } from './entries.ts'

/** Drawn once: what it needs of the artwork it asks for when it is opened. */
export const AddLayer = memo(function AddLayer({ chosen }: { chosen: string | undefined }) {
  const act = useAct()
  const store = useStore<RootState>()
  const [colour, setColour] = useState('#f4ead2')
  const [asking, setAsking] = useState(false)
  const [layers, setLayers] = useState<readonly Layer[]>([])
  const look = () => setLayers(store.getState().bench.history?.artwork.layers ?? [])
  const under = [...allLayers(layers)].find((l) => l.id === chosen)
  const photo = [...allLayers(layers)].find((l) => l.source.type === 'photo')?.source
  const add = (name: string, source: Source) => {
    const layer = newLayer(name, source)
    const place = under ? placeAbove(layers, under.id) : { list: null, index: layers.length }
    act(command({ command: { type: 'add-layer', layer, ...place } }))
    act(choose({ type: 'layer', layer: layer.id }))
    return layer.id
  }
  return (
    <>
      <Popover opened={asking} onChange={setAsking} position="top-end" trapFocus withRoles={false}>
        <Popover.Target>
          <span />
        </Popover.Target>
        <Popover.Dropdown>
          <Stack gap={8}>
            <ColorPicker format="hex" value={colour} onChange={setColour} saturationLabel="Saturation and lightness" hueLabel="Hue" />
            <TextInput label="Colour of the fill" value={colour} onChange={(e) => setColour(e.currentTarget.value)} />
            <Button
              onClick={() => {
                setAsking(false)
                if (/^#[0-9a-f]{6}$/i.test(colour)) add('Fill', { type: 'fill', colour, alpha: 1 })
              }}
            >
              Add fill
            </Button>
          </Stack>
        </Popover.Dropdown>
      </Popover>
      <Menu position="top-end" onOpen={look}>
        <Menu.Target>
          <Button variant="default" size="compact-xs" leftSection={<IconPlus size={13} />}>
            Layer
          </Button>
        </Menu.Target>
        <Menu.Dropdown>
          <Menu.Label>A new layer above the chosen one, from</Menu.Label>
          {photo && <Menu.Item onClick={() => add('Photo', photo)}>The photo</Menu.Item>}
          {under && <Menu.Item onClick={() => add(`${under.name}, live`.slice(0, 120), { type: 'live', layer: under.id })}>“{under.name}”, live</Menu.Item>}
          <Menu.Item onClick={() => add('Below', { type: 'below' })}>What lies below</Menu.Item>
          <Menu.Item onClick={() => setAsking(true)}>A fill …</Menu.Item>
          <Menu.Item onClick={() => add('Gradient', newGradient)}>A gradient</Menu.Item>
          <Menu.Item onClick={() => add('Group', { type: 'group', isolated: false, layers: [] })}>An empty group</Menu.Item>
          <Menu.Item onClick={() => act(paintOn({ layer: add('Paint', { type: 'paint', plane: null }), step: null, part: 'paint' }))}>
            Paint, by brush
          </Menu.Item>
        </Menu.Dropdown>
      </Menu>
    </>
  )
})
