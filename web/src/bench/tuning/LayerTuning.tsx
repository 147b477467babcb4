import { ActionIcon, Button, Popover, SegmentedControl, Switch, Text, TextInput, Tooltip } from '@mantine/core'
import { locate, type Artwork, type Layer, type LayerChange } from '@nimble-quill/core'
import { IconArrowDown, IconArrowUp, IconCopy, IconDots, IconTrash } from '@tabler/icons-react'
import { useEffect, useState } from 'react'
import { useAct } from '../../store/store.ts'
import { useMenu } from '../menu/menu.tsx'
import { useLayerDeeds } from '../sheet/layer-deeds.tsx'
import { LayerAction } from '../sheet/LayerAction.tsx'
import { sourceName } from '../sheet/source-name.ts'
import { command, openPicker, tryOut } from '../slice.ts'
import { useGroundFill } from '../sheet/use-ground-fill.ts'
import { MaskSection } from '../hands/MaskSection.tsx'
import { paintOn } from '../hands/slice.ts'
import { emptyLightMap } from '../hands/targets.ts'
import { Mixing, isDriven } from './Mixing.tsx'
import { GradientSection } from './GradientSection.tsx'
import { PanelsSection } from './PanelsSection.tsx'
import { PaperSection } from './PaperSection.tsx'
import { Tick } from './Tick.tsx'
import { SpanEditor } from './widgets/SpanEditor.tsx'
import { ColourField } from './widgets/ColourField.tsx'
import { PictureChoice } from './widgets/PictureField.tsx'
import tuningCss from './tuning.module.css'

export function LayerTuning({ artwork, layer, onHelp }: { artwork: Artwork; layer: Layer; onHelp: (t: string) => void }) {
  const act = useAct()
  const { list, index } = locate(artwork.layers as Layer[], layer.id)
  const menu = useMenu()
  const deeds = useLayerDeeds()
  const fromGround = useGroundFill()
  const set = (change: LayerChange, gesture?: string) =>
    act(command({ command: { type: 'set-layer', layer: layer.id, ...change }, ...(gesture ? { gesture: `${layer.id}.${gesture}` } : {}) }))
  const { source } = layer
  const [name, setName] = useState(layer.name)
  useEffect(() => setName(layer.name), [layer.name])
  const rename = () => {
    if (name.trim() && name !== layer.name) act(command({ command: { type: 'rename-layer', layer: layer.id, name } }))
    else setName(layer.name)
  }
  return (
    <>
      <header>
        <div style={{ display: 'flex', alignItems: 'center' }}>
          <Tick label="Layer is shown" on={layer.visible} onChange={(visible) => set({ visible })} />
          <h2 style={{ flex: 1 }}>Layer</h2>
          {index < list.length - 1 && (
            <LayerAction label="Move up" onClick={() => act(command({ command: { type: 'move-layer', layer: layer.id, index: index + 1 } }))}>
              <IconArrowUp size={17} />
            </LayerAction>
          )}
          {index > 0 && (
            <LayerAction label="Move down" onClick={() => act(command({ command: { type: 'move-layer', layer: layer.id, index: index - 1 } }))}>
              <IconArrowDown size={17} />
            </LayerAction>
          )}
          <Tooltip label="What can be done to it">
            <ActionIcon
              aria-label="What can be done to this layer"
              aria-haspopup="menu"
              onClick={(e) => {
                const { of, parts } = deeds(layer.id)
                menu(e, of, parts)
              }}
            >
              <IconDots size={17} />
            </ActionIcon>
          </Tooltip>
          <LayerAction label="Duplicate layer" onClick={() => act(command({ command: { type: 'duplicate-layer', layer: layer.id } }))}>
            <IconCopy size={17} />
          </LayerAction>
          <LayerAction label="Delete layer" onClick={() => act(command({ command: { type: 'remove-layer', layer: layer.id } }))}>
            <IconTrash size={17} />
          </LayerAction>
        </div>
      </header>
      <div className={tuningCss.controls} data-part="controls">
        <TextInput
          label="Name"
          value={name}
          maxLength={120}
          onChange={(e) => setName(e.currentTarget.value)}
          onBlur={rename}
          onKeyDown={(e) => e.key === 'Enter' && rename()}
        />
        <Text size="sm">Source: {sourceName(artwork, source)}</Text>
        {source.type === 'group' && (
          <div
            className={tuningCss.control}
            onPointerEnter={() =>
              onHelp(
                'Open, its layers blend with what lies below the group. Isolated, they blend among themselves first; so does a group with steps, a blend mode or a light map of its own.',
              )
            }
          >
            <span className={tuningCss.label}>Group</span>
            <SegmentedControl
              size="xs"
              aria-label="Group is"
              data={[
                { value: 'open', label: 'Open' },
                { value: 'isolated', label: 'Isolated' },
              ]}
              value={source.isolated ? 'isolated' : 'open'}
              onChange={(v) => set({ isolated: v === 'isolated' })}
            />
          </div>
        )}
        {index > 0 && (
          <div className={tuningCss.control} onPointerEnter={() => onHelp('It shows only where the layer below shows, and is mixed with that one alone.')}>
            <span className={tuningCss.label}>Follows the layer below</span>
            <Switch
              size="xs"
              aria-label="Follows the layer below"
              checked={layer.followsBelow}
              onChange={(e) => set({ followsBelow: e.currentTarget.checked })}
            />
          </div>
        )}
        {source.type === 'photo' && <ReplacePhoto source={source} />}
        {source.type === 'live' && (
          <Button variant="default" onClick={() => act(command({ command: { type: 'make-own', layer: layer.id } }))}>
            Make it its own
          </Button>
        )}
        {source.type === 'paper' && <PaperSection artwork={artwork} layer={layer} onHelp={onHelp} />}
        {source.type === 'panels' && <PanelsSection artwork={artwork} layer={layer} onHelp={onHelp} />}
        {source.type === 'gradient' && <GradientSection layer={layer} onHelp={onHelp} />}
        {layer.source.type === 'fill' && (
          <div className={tuningCss.control}>
            <span className={tuningCss.label}>Colour</span>
            <ColourField
              label="Colour"
              value={layer.source.colour}
              onChange={(colour, gesture) =>
                act(
                  command({
                    command: { type: 'set-fill', layer: layer.id, colour, alpha: layer.source.type === 'fill' ? layer.source.alpha : 1 },
                    ...(gesture ? { gesture: `${layer.id}.fill.${gesture}` } : {}),
                  }),
                )
              }
            />
          </div>
        )}
        {layer.source.type === 'fill' && (
          <Button
            variant="default"
            onClick={() => void fromGround(layer.id)}
            onPointerEnter={() => onHelp('The colour that stands behind what the photo shows, as found along its borders.')}
          >
            From the photo’s ground
          </Button>
        )}
        {layer.source.type === 'paint' && (
          <Button variant="default" onClick={() => act(paintOn({ layer: layer.id, step: null, part: 'paint' }))}>
            Paint on it
          </Button>
        )}
        <SpanEditor title="Its own tones" span={layer.span} onHelp={onHelp} onChange={(span, gesture) => set({ span }, gesture && `span.${gesture}`)} />
        <MaskSection artwork={artwork} layer={layer} step={null} />
        <div className={tuningCss.control} role="group" aria-label="Light map">
          <span className={tuningCss.label}>Light map</span>
          <Button
            variant="default"
            size="compact-xs"
            onClick={() => {
              if (!layer.lightMap) act(command({ command: { type: 'set-light-map', layer: layer.id, lightMap: emptyLightMap } }))
              act(paintOn({ layer: layer.id, step: null, part: 'light' }))
            }}
          >
            Dodge and burn
          </Button>
        </div>
        <Button variant="default" onClick={() => act(openPicker({ layer: layer.id, index: layer.chain.length }))}>
          Add a step
        </Button>
      </div>
      <Mixing
        blend={layer.blend}
        opacity={layer.opacity}
        driven={isDriven(artwork, layer.id, null, 'opacity')}
        span={layer.spanBelow}
        spanTitle="Tones below"
        onSpan={(spanBelow, gesture) => set({ spanBelow }, gesture && `span-below.${gesture}`)}
        onHelp={onHelp}
        onBlend={(blend) => set({ blend })}
        onTry={(blend) => act(tryOut(blend && blend !== layer.blend ? { type: 'set-layer', layer: layer.id, blend } : null))}
        onOpacity={(opacity, gesture) => set({ opacity }, gesture && `opacity.${gesture}`)}
      />
    </>
  )
}

/** Another photo instead, everything else kept. */
function ReplacePhoto({ source }: { source: Extract<Layer['source'], { type: 'photo' }> }) {
  const act = useAct()
  const [open, setOpen] = useState(false)
  return (
    <Popover opened={open} onChange={setOpen} position="left-start" trapFocus withRoles={false}>
      <Popover.Target>
        <Button variant="default" onClick={() => setOpen(!open)}>
          Another photo instead …
        </Button>
      </Popover.Target>
      <Popover.Dropdown>
        <PictureChoice
          label="Another photo"
          value={source.asset}
          onTake={({ asset, width, height, name }) => {
            setOpen(false)
            if (asset !== source.asset)
              act(command({ command: { type: 'replace-photo', from: source.asset, to: { asset, width, height }, name: name.replace(/\.[a-z]+$/i, '') } }))
          }}
        />
      </Popover.Dropdown>
    </Popover>
  )
}
