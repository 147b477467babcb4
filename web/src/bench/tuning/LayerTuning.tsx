import { Button, Text, TextInput } from '@mantine/core'
import type { Artwork, Layer } from '@nimble-quill/core'
import { IconArrowDown, IconArrowUp, IconCopy, IconTrash } from '@tabler/icons-react'
import { useEffect, useState } from 'react'
import { useAct } from '../../store/store.ts'
import { LayerAction } from '../sheet/LayerAction.tsx'
import { sourceName } from '../sheet/source-name.ts'
import { command, openPicker } from '../slice.ts'
import { MaskSection } from '../hands/MaskSection.tsx'
import { paintOn } from '../hands/slice.ts'
import { emptyLightMap } from '../hands/targets.ts'
import { Mixing, isDriven } from './Mixing.tsx'
import { Tick } from './Tick.tsx'
import { ColourField } from './widgets/ColourField.tsx'
import tuningCss from './tuning.module.css'

export function LayerTuning({ artwork, layer, onHelp }: { artwork: Artwork; layer: Layer; onHelp: (t: string) => void }) {
  const act = useAct()
  const index = artwork.layers.indexOf(layer)
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
          <Tick label="Layer is shown" on={layer.visible} onChange={(visible) => act(command({ command: { type: 'set-layer', layer: layer.id, visible } }))} />
          <h2 style={{ flex: 1 }}>Layer</h2>
          {index < artwork.layers.length - 1 && (
            <LayerAction label="Move up" onClick={() => act(command({ command: { type: 'move-layer', layer: layer.id, index: index + 1 } }))}>
              <IconArrowUp size={17} />
            </LayerAction>
          )}
          {index > 0 && (
            <LayerAction label="Move down" onClick={() => act(command({ command: { type: 'move-layer', layer: layer.id, index: index - 1 } }))}>
              <IconArrowDown size={17} />
            </LayerAction>
          )}
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
        <Text size="sm">Source: {sourceName(artwork, layer.source)}</Text>
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
        {layer.source.type === 'paint' && (
          <Button variant="default" onClick={() => act(paintOn({ layer: layer.id, step: null, part: 'paint' }))}>
            Paint on it
          </Button>
        )}
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
        span={layer.span}
        onSpan={(span, gesture) =>
          act(command({ command: { type: 'set-layer', layer: layer.id, span }, ...(gesture ? { gesture: `${layer.id}.span.${gesture}` } : {}) }))
        }
        onHelp={onHelp}
        onBlend={(blend) => act(command({ command: { type: 'set-layer', layer: layer.id, blend } }))}
        onOpacity={(opacity, gesture) =>
          act(command({ command: { type: 'set-layer', layer: layer.id, opacity }, ...(gesture ? { gesture: `${layer.id}.opacity.${gesture}` } : {}) }))
        }
      />
    </>
  )
}
