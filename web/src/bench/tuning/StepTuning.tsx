import { Button, Text, Tooltip } from '@mantine/core'
import { stepAt, type Artwork, type Layer, type Measured, type ParamSpec, type Span, type StepUse } from '@nimble-quill/core'
import { IconCopy, IconLayoutGrid, IconTrash } from '@tabler/icons-react'
import { lazy, memo, Suspense, useEffect, useState, type ReactNode } from 'react'
import { tell } from '../../parts/tell.tsx'
import { useAct } from '../../store/store.ts'
import { useEngine } from '../engine-context.ts'
import { useFeed } from '../proofs/feed.ts'
import { MaskSection } from '../hands/MaskSection.tsx'
import { useTakeOver } from '../hands/use-take-over.ts'
import { StudySection } from '../hands/StudySection.tsx'
import { LayerAction } from '../sheet/LayerAction.tsx'
import { copySteps } from '../sheet/clipboard.ts'
import { command, openProofSheet, peek, tryOut } from '../slice.ts'
import { InputControl } from './InputControl.tsx'
import { Presets } from './KeptValues.tsx'
import { Mixing, isDriven } from './Mixing.tsx'
import { ParamControl } from './ParamControl.tsx'
import { Tick } from './Tick.tsx'
import { MeasuredContext, useMeasured } from './measured.ts'
import { LampDial } from './widgets/LampDial.tsx'
import tuningCss from './tuning.module.css'
import widgetsCss from './widgets/widgets.module.css'

// charts are large and not needed for the first picture
const Histogram = lazy(() => import('./widgets/Histogram.tsx').then((m) => ({ default: m.Histogram })))

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
      onTry={(b) => act(tryOut(b && b !== blend ? { type: 'set-step', layer, step, blend: b } : null))}
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
  const takeOver = useTakeOver()
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
        <Tick label="Step is on" on={on} onChange={(next) => act(command({ command: { type: 'set-step', layer, step, on: next } }))} />
        <h2 style={{ flex: 1 }}>{def.title}</h2>
        <LayerAction label="Proof sheet: try values side by side" onClick={() => act(openProofSheet({ layer, step, of: 'values' }))}>
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
        {def.kind === 'planned' && def.lines && on && (
          <Tooltip label="Its lines become pen strokes on a layer of their own, to be moved, bent and taken out by hand">
            <Button size="compact-xs" variant="default" onClick={() => void takeOver(layer, step)}>
              Take over as ink
            </Button>
          </Tooltip>
        )}
      </div>
    </header>
  )
})

/** How long after a change tones are counted again, milliseconds: the picture comes first. */
const COUNT_AFTER = 60

/** Measures the chosen step for what is drawn inside, as the artwork changes. */
export function Measuring({ layer, step, children }: { layer: string; step: string; children: ReactNode }) {
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

export function StepTuning({ artwork, layer, use, onHelp }: { artwork: Artwork; layer: Layer; use: StepUse; onHelp: (t: string) => void }) {
  const def = stepAt(use.step, use.version)
  const at = { layer: layer.id, step: use.id }
  return (
    <>
      <StepHead {...at} use={use} />
      <div className={`${tuningCss.pinned} ${tuningCss.top}`} data-part="measured">
        <Suspense fallback={<div className={widgetsCss.histogram} data-part="histogram" />}>
          <Marked use={use} />
        </Suspense>
      </div>
      <div className={tuningCss.controls} data-part="controls">
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
        {Object.entries(def.inputs ?? {}).map(([name, { title, help }]) => (
          <InputControl key={name} artwork={artwork} layer={layer.id} use={use} name={name} title={title} help={help} onHelp={onHelp} />
        ))}
        {def.goesBy && (
          <StudySection
            artwork={artwork}
            layer={layer.id}
            parts={def.goesBy}
            painted={def.goesBy.filter((part) => layer.study?.[part] || (part === 'detail' && artwork.pins.length > 0))}
            onHelp={onHelp}
          />
        )}
        {def.lit && <StepLamp lamp={artwork.lamp} onHelp={onHelp} />}
        {Object.keys(def.params).length === 0 && !def.inputs && (
          <Text size="sm" c="var(--faint)">
            Nothing to set.
          </Text>
        )}
      </div>
      <div className={tuningCss.pinned} data-part="pinned">
        <MaskSection artwork={artwork} layer={layer} step={use.id} />
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
