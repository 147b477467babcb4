import { Button, ColorPicker, Menu, Popover, Stack, TextInput } from '@mantine/core'
import { allLayers, newGradient, newPaper, papers, picturePaper, type Layer, type PaperId } from '@nimble-quill/core'
import { IconPlus } from '@tabler/icons-react'
import { memo, useState } from 'react'
import { useStore } from 'react-redux'
import { useAct, type RootState } from '../../store/store.ts'
import { paintOn, takeInk, takeMend } from '../hands/slice.ts'
import { PictureChoice } from '../tuning/widgets/PictureField.tsx'
import { useAddLayer } from './use-add-layer.ts'

/** Drawn once: what it needs of the artwork it asks for when it is opened. */
export const AddLayer = memo(function AddLayer({ chosen }: { chosen: string | undefined }) {
  const act = useAct()
  const store = useStore<RootState>()
  const [colour, setColour] = useState('#f4ead2')
  // what has to be decided before there is a layer
  const [asking, setAsking] = useState<'fill' | 'picture' | 'paper' | null>(null)
  const [layers, setLayers] = useState<readonly Layer[]>([])
  const { add, addPicture, addPanels } = useAddLayer()
  const look = () => setLayers(store.getState().bench.history?.artwork.layers ?? [])
  const under = [...allLayers(layers)].find((l) => l.id === chosen)
  const photo = [...allLayers(layers)].find((l) => l.source.type === 'photo')?.source
  return (
    <>
      <Popover opened={asking !== null} onChange={(open) => !open && setAsking(null)} position="top-end" trapFocus withRoles={false}>
        <Popover.Target>
          <span />
        </Popover.Target>
        <Popover.Dropdown>
          {asking === 'fill' ? (
            <Stack gap={8}>
              <ColorPicker format="hex" value={colour} onChange={setColour} saturationLabel="Saturation and lightness" hueLabel="Hue" />
              <TextInput label="Colour of the fill" value={colour} onChange={(e) => setColour(e.currentTarget.value)} />
              <Button
                onClick={() => {
                  setAsking(null)
                  if (/^#[0-9a-f]{6}$/i.test(colour)) add('Fill', { type: 'fill', colour, alpha: 1 })
                }}
              >
                Add fill
              </Button>
            </Stack>
          ) : (
            <PictureChoice
              label={asking === 'paper' ? 'Picture of a paper' : 'Another picture'}
              value={null}
              onTake={(picture) => {
                setAsking(null)
                if (asking === 'paper')
                  add(picture.name.replace(/\.[a-z]+$/i, ''), picturePaper({ asset: picture.asset, width: picture.width, height: picture.height }))
                else addPicture(picture.name, picture)
              }}
            />
          )}
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
          <Menu.Item onClick={() => setAsking('picture')}>Another picture …</Menu.Item>
          {under && <Menu.Item onClick={() => add(`${under.name}, live`, { type: 'live', layer: under.id })}>“{under.name}”, live</Menu.Item>}
          <Menu.Item onClick={() => add('Below', { type: 'below' })}>What lies below</Menu.Item>
          <Menu.Item onClick={addPanels}>A panel sheet</Menu.Item>
          <Menu.Item onClick={() => setAsking('fill')}>A fill …</Menu.Item>
          <Menu.Item onClick={() => add('Gradient', newGradient)}>A gradient</Menu.Item>
          <Menu.Sub position="left-end">
            <Menu.Sub.Target>
              <Menu.Sub.Item>A paper</Menu.Sub.Item>
            </Menu.Sub.Target>
            <Menu.Sub.Dropdown>
              {Object.entries(papers).map(([id, { title, colour: hue }]) => (
                <Menu.Item
                  key={id}
                  leftSection={<i style={{ display: 'block', width: 16, height: 16, background: hue, border: '1px solid var(--line)' }} />}
                  onClick={() => add(title, newPaper(id as PaperId))}
                >
                  {title}
                </Menu.Item>
              ))}
              <Menu.Item onClick={() => setAsking('paper')}>From a picture …</Menu.Item>
            </Menu.Sub.Dropdown>
          </Menu.Sub>
          <Menu.Item onClick={() => add('Group', { type: 'group', isolated: false, layers: [] })}>An empty group</Menu.Item>
          <Menu.Item onClick={() => act(paintOn({ layer: add('Paint', { type: 'paint', plane: null }), step: null, part: 'paint' }))}>
            Paint, by brush
          </Menu.Item>
          <Menu.Item onClick={() => act(takeInk(add('Ink', { type: 'ink', blob: null, colour: '#131211' })))}>Ink, by pen</Menu.Item>
          <Menu.Item onClick={() => act(takeMend(add('Mended', { type: 'mend', blob: null, plane: null })))}>Mended places, by hand</Menu.Item>
        </Menu.Dropdown>
      </Menu>
    </>
  )
})
