import { Button, Select, Text, TextInput } from '@mantine/core'
import {
  blendModes,
  blendModeTitle,
  locate,
  stepById,
  type Artwork,
  type BlendMode,
  type Control,
  type Layer,
  type ParamSpec,
  type StepUse,
} from '@nimble-quill/core'
import { IconArrowDown, IconArrowUp, IconCopy, IconEye, IconEyeOff, IconTrash } from '@tabler/icons-react'
import { memo, useEffect, useState } from 'react'
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

interface StepPart {
  layer: string
  step: string
  onHelp: (t: string) => void
}

/** One control of a step: drawn again only when its own value changes. */
const StepParam = memo(function StepParam({
  layer,
  step,
  name,
  spec,
  value,
  reference,
  ppi,
  driven,
  onHelp,
}: StepPart & { name: string; spec: ParamSpec; value: unknown; reference: number; ppi: number; driven: boolean }) {
  const act = useAct()
  return (
    <ParamControl
      spec={spec}
      value={value}
      scale={{ reference, ppi }}
      driven={driven}
      onHelp={onHelp}
      onChange={(v, gesture) =>
        act(command({ command: { type: 'set-param', layer, step, param: name, value: v }, ...(gesture ? { gesture: `${step}.${name}.${gesture}` } : {}) }))
      }
    />
  )
})

const StepMixing = memo(function StepMixing({ layer, step, blend, opacity, onHelp }: StepPart & { blend: BlendMode; opacity: number }) {
  const act = useAct()
  return (
    <Mixing
      blend={blend}
      opacity={opacity}
      onHelp={onHelp}
      onBlend={(b) => act(command({ command: { type: 'set-step', layer, step, blend: b } }))}
      onOpacity={(o, gesture) =>
        act(command({ command: { type: 'set-step', layer, step, opacity: o }, ...(gesture ? { gesture: `${step}.opacity.${gesture}` } : {}) }))
      }
    />
  )
})

const StepHead = memo(function StepHead({ layer, step, id, on }: { layer: string; step: string; id: string; on: boolean }) {
  const act = useAct()
  const def = stepById(id)
  return (
    <header>
      <div style={{ display: 'flex', alignItems: 'center' }}>
        <h2 style={{ flex: 1 }}>{def.title}</h2>
        <LayerAction label={on ? 'Switch off' : 'Switch on'} onClick={() => act(command({ command: { type: 'set-step', layer, step, on: !on } }))}>
          {on ? <IconEye size={17} /> : <IconEyeOff size={17} />}
        </LayerAction>
        <LayerAction label="Delete step" onClick={() => act(command({ command: { type: 'remove-step', layer, step } }))}>
          <IconTrash size={17} />
        </LayerAction>
      </div>
      <Text size="xs" c="var(--faint)">
        {def.help}
      </Text>
    </header>
  )
})

function StepTuning({ artwork, layer, use, onHelp }: { artwork: Artwork; layer: Layer; use: StepUse; onHelp: (t: string) => void }) {
  const def = stepById(use.step)
  const at = { layer: layer.id, step: use.id }
  return (
    <>
      <StepHead {...at} id={use.step} on={use.on} />
      <div className="controls">
        {Object.entries(def.params).map(([name, spec]) => {
          if (spec.when && !spec.when.is.includes(String(use.params[spec.when.param]))) return null
          return (
            <StepParam
              key={name}
              {...at}
              name={name}
              spec={spec}
              value={use.params[name] ?? spec.default}
              reference={artwork.reference}
              ppi={artwork.sheet.ppi}
              driven={isDriven(artwork, layer.id, use.id, name)}
              onHelp={onHelp}
            />
          )
        })}
        {Object.keys(def.params).length === 0 && (
          <Text size="sm" c="var(--faint)">
            Nothing to set.
          </Text>
        )}
      </div>
      <StepMixing {...at} blend={use.blend} opacity={use.opacity} onHelp={onHelp} />
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

const RecipeParam = memo(function RecipeParam({
  use,
  control,
  value,
  onHelp,
}: {
  use: string
  control: Control
  value: number | string
  onHelp: (t: string) => void
}) {
  const act = useAct()
  return (
    <RecipeControl
      control={control}
      value={value}
      onHelp={onHelp}
      onChange={(v, gesture) =>
        act(
          command({ command: { type: 'set-control', use, control: control.id, value: v }, ...(gesture ? { gesture: `${use}.${control.id}.${gesture}` } : {}) }),
        )
      }
    />
  )
})

function RecipeTuning({ artwork, use, onHelp }: { artwork: Artwork; use: string; onHelp: (t: string) => void }) {
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
          <RecipeParam key={c.id} use={use} control={c} value={recipe.values[c.id] ?? c.default} onHelp={onHelp} />
        ))}
      </div>
    </>
  )
}
