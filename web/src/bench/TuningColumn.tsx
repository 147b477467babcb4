import { Button, Select, Text, TextInput } from '@mantine/core'
import { blendModes, blendModeTitle, locate, stepById, type Artwork, type BlendMode, type Layer, type StepUse } from '@nimble-quill/core'
import { IconArrowDown, IconArrowUp, IconCopy, IconEye, IconEyeOff, IconTrash } from '@tabler/icons-react'
import { useEffect, useState } from 'react'
import { useAct, useApp } from '../store/store.ts'
import { NumberControl, ParamControl, RecipeControl } from './controls.tsx'
import { LayerAction, sourceName } from './ProcessSheet.tsx'
import { command, openPicker } from './slice.ts'

const BLENDS = blendModes.map((m) => ({ value: m, label: blendModeTitle(m) }))

/** Shows what is chosen and lets it be tuned; drawn from the declaration. */
export function TuningColumn({ artwork }: { artwork: Artwork }) {
  const choice = useApp((s) => s.bench.choice)
  const [help, setHelp] = useState('')
  const key = JSON.stringify(choice)
  useEffect(() => setHelp(''), [key])
  let inside = (
    <Text p={12} c="var(--faint)">
      Choose a proof in the process sheet.
    </Text>
  )
  if (choice?.type === 'recipe') inside = <RecipeTuning artwork={artwork} use={choice.use} onHelp={setHelp} />
  else if (choice) {
    const { layer } = locate(artwork.layers as Layer[], choice.layer)
    const step = choice.type === 'step' ? layer.chain.find((s) => s.id === choice.step) : undefined
    inside = step ? (
      <StepTuning key={step.id} artwork={artwork} layer={layer} use={step} onHelp={setHelp} />
    ) : (
      <LayerTuning key={layer.id} artwork={artwork} layer={layer} onHelp={setHelp} />
    )
  }
  return (
    <aside className="tuning" aria-label="Tuning">
      {inside}
      <footer aria-live="polite">{help || 'Rest on a control to read what it does.'}</footer>
    </aside>
  )
}

/** Blend and opacity, as they stand below every step and layer. */
function Mixing({
  blend,
  opacity,
  driven,
  onHelp,
  onBlend,
  onOpacity,
}: {
  blend: BlendMode
  opacity: number
  driven?: boolean
  onHelp: (t: string) => void
  onBlend: (b: BlendMode) => void
  onOpacity: (o: number, gesture?: string) => void
}) {
  return (
    <div className="pinned">
      <div className="control" onPointerEnter={() => onHelp('How the result is mixed with what was there before.')}>
        <label className="label" htmlFor="blend">
          Blend
        </label>
        <Select
          id="blend"
          w={152}
          data={BLENDS}
          value={blend}
          onChange={(v) => onBlend(v as BlendMode)}
          maxDropdownHeight={360}
          styles={{ input: { height: 26, minHeight: 26 } }}
        />
      </div>
      <NumberControl
        label="Opacity"
        help="How much of the result shows."
        value={opacity * 100}
        min={0}
        max={100}
        step={1}
        fallback={100}
        feel="even"
        suffix=" %"
        {...(driven ? { driven } : {})}
        onHelp={onHelp}
        onChange={(v, gesture) => onOpacity(v / 100, gesture)}
      />
    </div>
  )
}

function isDriven(artwork: Artwork, layer: string, step: string | null, param: string): boolean {
  return artwork.recipes.some((r) => r.controls.some((c) => c.drives.some((d) => d.layer === layer && d.step === step && (step === null || d.param === param))))
}

function StepTuning({ artwork, layer, use, onHelp }: { artwork: Artwork; layer: Layer; use: StepUse; onHelp: (t: string) => void }) {
  const act = useAct()
  const def = stepById(use.step)
  const scale = { reference: artwork.reference, ppi: artwork.sheet.ppi }
  const at = { layer: layer.id, step: use.id }
  return (
    <>
      <header>
        <div style={{ display: 'flex', alignItems: 'center' }}>
          <h2 style={{ flex: 1 }}>{def.title}</h2>
          <LayerAction label={use.on ? 'Switch off' : 'Switch on'} onClick={() => act(command({ command: { type: 'set-step', ...at, on: !use.on } }))}>
            {use.on ? <IconEye size={17} /> : <IconEyeOff size={17} />}
          </LayerAction>
          <LayerAction label="Delete step" onClick={() => act(command({ command: { type: 'remove-step', ...at } }))}>
            <IconTrash size={17} />
          </LayerAction>
        </div>
        <Text size="xs" c="var(--faint)">
          {def.help}
        </Text>
      </header>
      <div className="controls">
        {Object.entries(def.params).map(([name, spec]) => {
          if (spec.when && !spec.when.is.includes(String(use.params[spec.when.param]))) return null
          return (
            <ParamControl
              key={name}
              spec={spec}
              value={use.params[name] ?? spec.default}
              scale={scale}
              driven={isDriven(artwork, layer.id, use.id, name)}
              onHelp={onHelp}
              onChange={(value, gesture) =>
                act(command({ command: { type: 'set-param', ...at, param: name, value }, ...(gesture ? { gesture: `${use.id}.${name}.${gesture}` } : {}) }))
              }
            />
          )
        })}
        {Object.keys(def.params).length === 0 && (
          <Text size="sm" c="var(--faint)">
            Nothing to set.
          </Text>
        )}
      </div>
      <Mixing
        blend={use.blend}
        opacity={use.opacity}
        onHelp={onHelp}
        onBlend={(blend) => act(command({ command: { type: 'set-step', ...at, blend } }))}
        onOpacity={(opacity, gesture) =>
          act(command({ command: { type: 'set-step', ...at, opacity }, ...(gesture ? { gesture: `${use.id}.opacity.${gesture}` } : {}) }))
        }
      />
    </>
  )
}

function LayerTuning({ artwork, layer, onHelp }: { artwork: Artwork; layer: Layer; onHelp: (t: string) => void }) {
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
          <h2 style={{ flex: 1 }}>Layer</h2>
          <LayerAction
            label={layer.visible ? 'Hide layer' : 'Show layer'}
            onClick={() => act(command({ command: { type: 'set-layer', layer: layer.id, visible: !layer.visible } }))}
          >
            {layer.visible ? <IconEye size={17} /> : <IconEyeOff size={17} />}
          </LayerAction>
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
      <div className="controls">
        <TextInput
          label="Name"
          value={name}
          maxLength={120}
          onChange={(e) => setName(e.currentTarget.value)}
          onBlur={rename}
          onKeyDown={(e) => e.key === 'Enter' && rename()}
        />
        <Text size="sm">Source: {sourceName(artwork, layer.source)}</Text>
        <Button variant="default" onClick={() => act(openPicker({ layer: layer.id, index: layer.chain.length }))}>
          Add a step
        </Button>
      </div>
      <Mixing
        blend={layer.blend}
        opacity={layer.opacity}
        driven={isDriven(artwork, layer.id, null, 'opacity')}
        onHelp={onHelp}
        onBlend={(blend) => act(command({ command: { type: 'set-layer', layer: layer.id, blend } }))}
        onOpacity={(opacity, gesture) =>
          act(command({ command: { type: 'set-layer', layer: layer.id, opacity }, ...(gesture ? { gesture: `${layer.id}.opacity.${gesture}` } : {}) }))
        }
      />
    </>
  )
}

function RecipeTuning({ artwork, use, onHelp }: { artwork: Artwork; use: string; onHelp: (t: string) => void }) {
  const act = useAct()
  const recipe = artwork.recipes.find((r) => r.id === use)
  if (!recipe) return null
  return (
    <>
      <header>
        <h2>{recipe.title}</h2>
        <Text size="xs" c="var(--faint)">
          The recipe’s own controls. Every step stays open in the process sheet.
        </Text>
      </header>
      <div className="controls">
        {recipe.controls.map((c) => (
          <RecipeControl
            key={c.id}
            control={c}
            value={recipe.values[c.id] ?? c.default}
            onHelp={onHelp}
            onChange={(value, gesture) =>
              act(command({ command: { type: 'set-control', use, control: c.id, value }, ...(gesture ? { gesture: `${use}.${c.id}.${gesture}` } : {}) }))
            }
          />
        ))}
      </div>
    </>
  )
}
