import { ActionIcon, Button, Menu, Select, Text, TextInput, Tooltip } from '@mantine/core'
import type { KeptValues } from '@nimble-quill/contracts'
import {
  allLayers,
  blendModes,
  blendModeTitle,
  locate,
  stepAt,
  type Artwork,
  type BlendMode,
  type Control,
  type ControlValue,
  type Layer,
  type Measured,
  type ParamSpec,
  type Span,
  type StepUse,
} from '@nimble-quill/core'
import { IconArrowDown, IconArrowUp, IconBookmark, IconCopy, IconEye, IconEyeOff, IconLayoutGrid, IconTrash } from '@tabler/icons-react'
import { lazy, memo, Suspense, useEffect, useState, type ReactNode } from 'react'
import { useAct, useApp } from '../store/store.ts'
import { NumberControl } from './tuning/NumberControl.tsx'
import { ParamControl } from './tuning/ParamControl.tsx'
import { RecipeControl } from './tuning/RecipeControl.tsx'
import { LayerAction, sourceName } from './ProcessSheet.tsx'
import { copySteps } from './clipboard.ts'
import { useEngine } from './engine-context.ts'
import { useFeed } from './feed.ts'
import { MeasuredContext, useMeasured } from './measured.ts'
import { command, openPicker, openProofSheet, peek } from './slice.ts'
import { sentenceOf, useForgetValuesMutation, useKeepValuesMutation, useKeptValuesQuery } from '../store/api.ts'
import { offerUndo, tell, tellTrouble } from '../parts/tell.tsx'
import { ColourField } from './widgets/ColourField.tsx'
import { LampDial } from './widgets/LampDial.tsx'
import { SpanEditor } from './widgets/SpanEditor.tsx'

// charts are large and not needed for the first picture
const Histogram = lazy(() => import('./widgets/Histogram.tsx').then((m) => ({ default: m.Histogram })))

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
      <Measuring key={step.id} layer={layer.id} step={step.id}>
        <StepTuning artwork={artwork} layer={layer} use={step} onHelp={setHelp} />
      </Measuring>
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
  span,
  onHelp,
  onBlend,
  onOpacity,
  onSpan,
}: {
  blend: StepUse['blend']
  opacity: number
  driven?: boolean
  span: Span | null
  onHelp: (t: string) => void
  onBlend: (b: BlendMode) => void
  onOpacity: (o: number, gesture?: string) => void
  onSpan: (s: Span | null, gesture?: string) => void
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
      <SpanEditor span={span} onChange={onSpan} onHelp={onHelp} />
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
  peer,
  onHelp,
}: StepPart & { name: string; spec: ParamSpec; value: unknown; reference: number; ppi: number; driven: boolean; peer: unknown }) {
  const act = useAct()
  return (
    <ParamControl
      spec={spec}
      value={value}
      scale={{ reference, ppi }}
      driven={driven}
      peer={peer}
      onHelp={onHelp}
      onChange={(v, gesture) =>
        act(command({ command: { type: 'set-param', layer, step, param: name, value: v }, ...(gesture ? { gesture: `${step}.${name}.${gesture}` } : {}) }))
      }
    />
  )
})

const StepMixing = memo(function StepMixing({
  layer,
  step,
  blend,
  opacity,
  span,
  onHelp,
}: StepPart & { blend: StepUse['blend']; opacity: number; span: Span | null }) {
  const act = useAct()
  return (
    <Mixing
      blend={blend}
      opacity={opacity}
      span={span}
      onSpan={(v, gesture) => act(command({ command: { type: 'set-step', layer, step, span: v }, ...(gesture ? { gesture: `${step}.span.${gesture}` } : {}) }))}
      onHelp={onHelp}
      onBlend={(b) => act(command({ command: { type: 'set-step', layer, step, blend: b } }))}
      onOpacity={(o, gesture) =>
        act(command({ command: { type: 'set-step', layer, step, opacity: o }, ...(gesture ? { gesture: `${step}.opacity.${gesture}` } : {}) }))
      }
    />
  )
})

const StepHead = memo(function StepHead({ layer, step, use }: { layer: string; step: string; use: StepUse }) {
  const act = useAct()
  const def = stepAt(use.step, use.version)
  const { on } = use
  const hold = (what: 'without' | 'alone') => ({
    onPointerDown: () => act(peek(what)),
    onPointerUp: () => act(peek(null)),
    onPointerLeave: () => act(peek(null)),
    onKeyDown: (e: { key: string }) => (e.key === ' ' || e.key === 'Enter') && act(peek(what)),
    onKeyUp: () => act(peek(null)),
    onBlur: () => act(peek(null)),
  })
  return (
    <header>
      <div style={{ display: 'flex', alignItems: 'center' }}>
        <h2 style={{ flex: 1 }}>{def.title}</h2>
        <LayerAction label={on ? 'Switch off' : 'Switch on'} onClick={() => act(command({ command: { type: 'set-step', layer, step, on: !on } }))}>
          {on ? <IconEye size={17} /> : <IconEyeOff size={17} />}
        </LayerAction>
        <LayerAction label="Proof sheet: try values side by side" onClick={() => act(openProofSheet({ layer, step }))}>
          <IconLayoutGrid size={17} />
        </LayerAction>
        <Presets layer={layer} use={use} />
        <LayerAction
          label="Copy step (Ctrl C)"
          onClick={() => {
            copySteps([use])
            tell(`${def.title} is copied. Ctrl V puts it in after the chosen proof.`)
          }}
        >
          <IconCopy size={17} />
        </LayerAction>
        <LayerAction label="Delete step" onClick={() => act(command({ command: { type: 'remove-step', layer, step } }))}>
          <IconTrash size={17} />
        </LayerAction>
      </div>
      <Text size="xs" c="var(--faint)">
        {def.help}
      </Text>
      <div style={{ display: 'flex', gap: 6, marginTop: 6 }}>
        <Tooltip label="Hold: the artwork without this step (hold E)">
          <Button size="compact-xs" variant="default" {...hold('without')}>
            Without it
          </Button>
        </Tooltip>
        <Tooltip label="Hold: what this step alone makes of its layer’s source (hold D)">
          <Button size="compact-xs" variant="default" {...hold('alone')}>
            It alone
          </Button>
        </Tooltip>
      </div>
    </header>
  )
})

/** Named values of a step: saved, taken, forgotten. */
function Presets({ layer, use }: { layer: string; use: StepUse }) {
  const act = useAct()
  const def = stepAt(use.step, use.version)
  const kept = (useKeptValuesQuery().data ?? []).filter((k) => k.step === use.step)
  const [keep] = useKeepValuesMutation()
  const [forget] = useForgetValuesMutation()
  const [name, setName] = useState('')
  const take = (params: Record<string, unknown>, title: string) =>
    act(command({ command: { type: 'set-params', layer, step: use.id, params, name: `values “${title}”` } }))
  const failed = (error: unknown) => tellTrouble(sentenceOf(error))
  const save = () => {
    const title = name.trim()
    if (!title) return
    const before = kept.find((p) => p.name === title)
    keep({ step: use.step, name: title, params: use.params })
      .unwrap()
      .then(() => {
        setName('')
        if (before) offerUndo(`The values kept as “${title}” are replaced.`, () => void put(before))
        else tell(`The values are kept as “${title}”.`)
      }, failed)
  }
  const put = ({ step, name, params }: KeptValues) => keep({ step, name, params }).unwrap().catch(failed)
  const drop = (k: KeptValues) => {
    forget(k.id)
      .unwrap()
      .then(() => offerUndo(`“${k.name}” is forgotten.`, () => void put(k)), failed)
  }
  return (
    <Menu position="bottom-end" width={230}>
      <Menu.Target>
        <ActionIcon aria-label="Kept values" title="Kept values">
          <IconBookmark size={17} />
        </ActionIcon>
      </Menu.Target>
      <Menu.Dropdown>
        <Menu.Item onClick={() => take(def.defaults, 'as it came')}>As it came</Menu.Item>
        {kept.map((p) => (
          <Menu.Item
            key={p.id}
            onClick={() => take(p.params, p.name)}
            rightSection={
              <IconTrash
                size={14}
                role="button"
                aria-label={`Forget “${p.name}”`}
                onClick={(e) => {
                  e.stopPropagation()
                  drop(p)
                }}
              />
            }
          >
            {p.name}
          </Menu.Item>
        ))}
        <Menu.Divider />
        <div style={{ display: 'flex', gap: 4, padding: 6 }} onKeyDown={(e) => e.stopPropagation()}>
          <TextInput
            aria-label="Name for these values"
            placeholder="Name for these values"
            value={name}
            maxLength={60}
            style={{ flex: 1 }}
            onChange={(e) => setName(e.currentTarget.value)}
          />
          <Button onClick={save} disabled={!name.trim()}>
            Keep
          </Button>
        </div>
      </Menu.Dropdown>
    </Menu>
  )
}

/** How long after a change tones are counted again, milliseconds: the picture comes first. */
const COUNT_AFTER = 60

/** Measures the chosen step for what is drawn inside, as the artwork changes. */
function Measuring({ layer, step, children }: { layer: string; step: string; children: ReactNode }) {
  const engine = useEngine()
  const feed = useFeed()
  const [found, setFound] = useState<Measured | null>(null)
  useEffect(() => {
    let timer: ReturnType<typeof setTimeout> | undefined
    let there = true
    const ask = () => {
      timer = undefined
      engine.setArtwork(feed.artwork)
      engine.measure(layer, step, (m) => there && setFound(m))
    }
    const soon = () => {
      timer ??= setTimeout(ask, COUNT_AFTER)
    }
    soon()
    const unheard = feed.listen(soon)
    return () => {
      there = false
      unheard()
      clearTimeout(timer)
    }
  }, [engine, feed, layer, step])
  return <MeasuredContext.Provider value={found}>{children}</MeasuredContext.Provider>
}

/** The histogram, with the level on it where the step cuts at one: set by hand, or as it was found. */
function Marked({ use }: { use: StepUse }) {
  const found = (useMeasured()?.facts as { level?: number | null } | undefined)?.level
  const byHand = use.step === 'threshold' ? Number(use.params['level']) : null
  return <Histogram width={272} mark={found ?? byHand} />
}

/** What else of a step's values a control goes by. */
function peerOf(spec: ParamSpec, params: Record<string, unknown>): unknown {
  return spec.type === 'gradient' ? params['space'] : spec.type === 'bounds' ? params['tones'] : undefined
}

function StepTuning({ artwork, layer, use, onHelp }: { artwork: Artwork; layer: Layer; use: StepUse; onHelp: (t: string) => void }) {
  const def = stepAt(use.step, use.version)
  const at = { layer: layer.id, step: use.id }
  return (
    <>
      <StepHead {...at} use={use} />
      <div className="pinned top">
        <Suspense fallback={<div className="histogram" />}>
          <Marked use={use} />
        </Suspense>
      </div>
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
              peer={peerOf(spec, use.params)}
              onHelp={onHelp}
            />
          )
        })}
        {def.lit && <StepLamp lamp={artwork.lamp} onHelp={onHelp} />}
        {Object.keys(def.params).length === 0 && (
          <Text size="sm" c="var(--faint)">
            Nothing to set.
          </Text>
        )}
      </div>
      <StepMixing {...at} blend={use.blend} opacity={use.opacity} span={use.span} onHelp={onHelp} />
    </>
  )
}

/** The lamp, beside the controls of what it lights. */
function StepLamp({ lamp, onHelp }: { lamp: Artwork['lamp']; onHelp: (t: string) => void }) {
  const act = useAct()
  return (
    <LampDial lamp={lamp} onHelp={onHelp} onChange={(to, gesture) => act(command({ command: { type: 'set-lamp', ...to }, ...(gesture ? { gesture } : {}) }))} />
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
        {layer.source.type === 'fill' && (
          <div className="control">
            <span className="label">Colour</span>
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

const RecipeParam = memo(function RecipeParam({
  use,
  control,
  value,
  spec,
  reference,
  ppi,
  onHelp,
}: {
  use: string
  control: Control
  value: ControlValue
  /** Of the parameter whose type the control has, where it is not a number or a choice of its own. */
  spec: ParamSpec | null
  reference: number
  ppi: number
  onHelp: (t: string) => void
}) {
  const act = useAct()
  const change = (v: unknown, gesture?: string) =>
    act(
      command({
        command: { type: 'set-control', use, control: control.id, value: v as ControlValue },
        ...(gesture ? { gesture: `${use}.${control.id}.${gesture}` } : {}),
      }),
    )
  if (control.kind.type !== 'value') return <RecipeControl control={control} value={value as number | string} onHelp={onHelp} onChange={change} />
  if (!spec) return null
  const named = { ...spec, title: control.title, help: control.help }
  return <ParamControl spec={named} value={value} scale={{ reference, ppi }} driven={false} onHelp={onHelp} onChange={change} />
})

/** The parameter that a control's first drive names. */
function specOf(artwork: Artwork, control: Control): ParamSpec | null {
  for (const layer of allLayers(artwork.layers)) {
    for (const use of layer.chain) {
      const drive = control.drives.find((d) => d.layer === layer.id && d.step === use.id)
      if (drive) return stepAt(use.step, use.version).params[drive.param] ?? null
    }
  }
  return null
}

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
          <RecipeParam
            key={c.id}
            use={use}
            control={c}
            value={recipe.values[c.id] ?? c.default}
            spec={c.kind.type === 'value' ? specOf(artwork, c) : null}
            reference={artwork.reference}
            ppi={artwork.sheet.ppi}
            onHelp={onHelp}
          />
        ))}
      </div>
    </>
  )
}
