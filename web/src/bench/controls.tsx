import { ActionIcon, NumberInput, Select, Slider, Switch, Tooltip } from '@mantine/core'
import {
  boundariesOf,
  convertLength,
  type ChoiceSpec,
  type Control,
  type CurvePoint,
  type GradientStop,
  type Length,
  type LengthSpec,
  type NumberSpec,
  type ParamSpec,
  type PictureRef,
  type Place,
  type Scale,
} from '@nimble-quill/core'
import { IconDice3, IconLink } from '@tabler/icons-react'
import { memo, useId, useRef, type ReactNode } from 'react'
import { CurveEditor } from './CurveEditor.tsx'
import { BoundsEditor } from './widgets/BoundsEditor.tsx'
import { ColourField } from './widgets/ColourField.tsx'
import { GradientEditor } from './widgets/GradientEditor.tsx'
import { HueRing } from './widgets/HueRing.tsx'
import { MixTable } from './widgets/MixTable.tsx'
import { PaletteEditor } from './widgets/PaletteEditor.tsx'
import { PictureField } from './widgets/PictureField.tsx'
import { RoseEditor } from './widgets/RoseEditor.tsx'
import type { OnChange } from './widgets/on-change.ts'

let gestures = 0
function useGesture() {
  const current = useRef<string | null>(null)
  return {
    during: () => (current.current ??= `g${++gestures}`),
    end: () => {
      current.current = null
    },
  }
}

/** A slider whose places are spread by ratio where a control's useful values crowd at the low end. */
function useFeel(min: number, max: number, feel: 'even' | 'log') {
  if (feel === 'even' || min <= 0) return { toPlace: (v: number) => ((v - min) / (max - min)) * 1000, fromPlace: (p: number) => min + (p / 1000) * (max - min) }
  const span = Math.log(max / min)
  return { toPlace: (v: number) => (Math.log(Math.max(min, v) / min) / span) * 1000, fromPlace: (p: number) => min * Math.exp((p / 1000) * span) }
}

interface FrameProps {
  label: string
  help: string
  driven?: boolean
  onHelp: (text: string) => void
  field: ReactNode
  wide?: ReactNode
  labelFor?: string
}

/** One control: name, field, and below them what needs the whole width. */
function Frame({ label, help, driven, onHelp, field, wide, labelFor }: FrameProps) {
  return (
    <div className="control" onPointerEnter={() => onHelp(help)} onFocus={() => onHelp(help)}>
      <label className="label" htmlFor={labelFor}>
        {label}
        {driven && (
          <Tooltip label="Set by a control of the recipe; typing over it sets it free">
            <span className="driven" role="img" aria-label="Set by the recipe">
              <IconLink size={13} />
            </span>
          </Tooltip>
        )}
      </label>
      {field}
      {wide && <div className="wide">{wide}</div>}
    </div>
  )
}

interface NumberProps {
  label: string
  help: string
  value: number
  min: number
  max: number
  step: number
  fallback: number
  feel: 'even' | 'log'
  suffix: string
  driven?: boolean
  onHelp: (text: string) => void
  onChange: OnChange<number>
  after?: ReactNode
  ends?: [string, string]
}

/** A number by slider, by typing, by arrow keys; a double click on the slider goes back to the default. */
export function NumberControl({ label, help, value, min, max, step, fallback, feel, suffix, driven, onHelp, onChange, after, ends }: NumberProps) {
  const id = useId()
  const gesture = useGesture()
  const { toPlace, fromPlace } = useFeel(min, max, feel)
  const decimals = step >= 1 ? 0 : step >= 0.1 ? 1 : 2
  const tidy = (v: number) => Number((feel === 'log' ? Number(v.toPrecision(3)) : Math.round(v / step) * step).toFixed(Math.max(decimals, 2)))
  const clamp = (v: number) => Math.min(max, Math.max(min, v))
  return (
    <Frame
      label={label}
      help={help}
      {...(driven ? { driven } : {})}
      onHelp={onHelp}
      labelFor={id}
      field={
        <span style={{ display: 'flex', gap: 4 }}>
          <NumberInput
            id={id}
            w={after ? 74 : 88}
            value={Number(value.toFixed(3))}
            min={min}
            max={max}
            step={step}
            decimalScale={3}
            clampBehavior="blur"
            suffix={suffix}
            hideControls
            withKeyboardEvents={false}
            onChange={(v) => typeof v === 'number' && v >= min && v <= max && v !== Number(value.toFixed(3)) && onChange(v, `type:${id}`)}
            onKeyDown={(e) => {
              const by = e.key === 'ArrowUp' ? step : e.key === 'ArrowDown' ? -step : 0
              if (!by) return
              e.preventDefault()
              onChange(clamp(Number((value + by * (e.shiftKey ? 10 : 1)).toFixed(4))), `keys:${id}`)
            }}
            styles={{ input: { textAlign: 'right', height: 26, minHeight: 26 } }}
          />
          {after}
        </span>
      }
      wide={
        <>
          <Slider
            thumbLabel={`${label}, slider`}
            min={0}
            max={1000}
            step={1}
            value={Math.round(toPlace(value))}
            onChange={(p) => {
              const v = clamp(tidy(fromPlace(p)))
              if (v !== value) onChange(v, gesture.during())
            }}
            onChangeEnd={gesture.end}
            onDoubleClick={() => onChange(fallback)}
            my={5}
          />
          {ends && (
            <div className="ends">
              <span>{ends[0]}</span>
              <span>{ends[1]}</span>
            </div>
          )}
        </>
      }
    />
  )
}

const UNITS: Length['unit'][] = ['px', '%', 'mm']

/** The unit of a length; not drawn again while the length itself is dragged. */
const UnitSelect = memo(
  function UnitSelect({ title, unit, onUnit }: { title: string; unit: Length['unit']; onUnit: (u: Length['unit']) => void }) {
    return (
      <Select
        w={58}
        aria-label={`${title}, unit`}
        data={UNITS}
        value={unit}
        onChange={(u) => onUnit(u as Length['unit'])}
        styles={{ input: { height: 26, minHeight: 26, paddingInline: 6 }, section: { width: 18 } }}
        comboboxProps={{ width: 80, position: 'bottom-end' }}
      />
    )
  },
  // what it calls reads the present value
  (a, b) => a.title === b.title && a.unit === b.unit,
)

function LengthControl({ spec, value, scale, ...rest }: ParamProps & { spec: LengthSpec; value: Length; scale: Scale }) {
  const now = useRef({ value, scale, onChange: rest.onChange })
  now.current = { value, scale, onChange: rest.onChange }
  const min = convertLength({ value: spec.min, unit: 'px' }, value.unit, scale).value
  const max = convertLength({ value: spec.max, unit: 'px' }, value.unit, scale).value
  const fallback = convertLength(spec.default, value.unit, scale).value
  return (
    <NumberControl
      label={spec.title}
      help={spec.help}
      value={value.value}
      min={min}
      max={max}
      step={value.unit === 'px' ? 0.1 : 0.01}
      fallback={fallback}
      feel={spec.feel}
      suffix=""
      {...(rest.driven ? { driven: true } : {})}
      onHelp={rest.onHelp}
      onChange={(v, gesture) => rest.onChange({ value: v, unit: value.unit }, gesture)}
      after={
        <UnitSelect
          title={spec.title}
          unit={value.unit}
          onUnit={(unit) => {
            const l = convertLength(now.current.value, unit, now.current.scale)
            now.current.onChange({ value: Number(l.value.toPrecision(4)), unit: l.unit })
          }}
        />
      }
    />
  )
}

function NumberParam({ spec, value, ...rest }: ParamProps & { spec: NumberSpec; value: number }) {
  const k = spec.unit === '%' ? 100 : 1
  return (
    <NumberControl
      label={spec.title}
      help={spec.help}
      value={value * k}
      min={spec.min * k}
      max={spec.max * k}
      step={spec.step * k}
      fallback={spec.default * k}
      feel={spec.feel}
      suffix={spec.unit === '%' ? ' %' : spec.unit === '°' ? '°' : ''}
      {...(rest.driven ? { driven: true } : {})}
      onHelp={rest.onHelp}
      onChange={(v, gesture) => rest.onChange(Number((v / k).toFixed(5)), gesture)}
    />
  )
}

interface ParamProps {
  driven: boolean
  onHelp: (text: string) => void
  onChange: OnChange<unknown>
}

/** The control of any declared parameter: a new step needs no interface code. */
export function ParamControl({ spec, value, scale, peer, ...rest }: ParamProps & { spec: ParamSpec; value: unknown; scale: Scale; peer?: unknown }) {
  const { driven, onHelp } = rest
  /** A control that needs the whole width under its name. */
  const wide = (more: string, inside: ReactNode) => (
    <Frame label={spec.title} help={more ? `${spec.help} ${more}` : spec.help} driven={driven} onHelp={onHelp} field={<span />} wide={inside} />
  )
  /** A control that fits beside its name. */
  const beside = (field: ReactNode, more = '') => (
    <Frame label={spec.title} help={more ? `${spec.help} ${more}` : spec.help} driven={driven} onHelp={onHelp} field={field} />
  )
  switch (spec.type) {
    case 'flag':
      return beside(<Switch size="xs" aria-label={spec.title} checked={value as boolean} onChange={(e) => rest.onChange(e.currentTarget.checked)} />)
    case 'colour':
      return beside(<ColourField label={spec.title} value={value as string} onChange={rest.onChange} />)
    case 'gradient':
      return wide(
        'Click adds a stop, Delete removes it.',
        <GradientEditor stops={value as GradientStop[]} space={(peer as 'oklab' | undefined) ?? 'oklab'} onChange={rest.onChange} />,
      )
    case 'palette':
      return wide('', <PaletteEditor colours={value as string[]} max={spec.max} onChange={rest.onChange} />)
    case 'bounds':
      return wide(
        'Click adds one, Delete removes it.',
        <BoundsEditor set={value as number[]} even={boundariesOf(Math.round(Number(peer ?? 4)), [])} max={spec.max} onChange={rest.onChange} />,
      )
    case 'hues':
      return wide(
        'A double click puts a hue back.',
        <HueRing title={spec.title} values={value as number[]} min={spec.min} max={spec.max} onChange={rest.onChange} />,
      )
    case 'rose':
      return wide('A double click takes a way out, or brings it back.', <RoseEditor weights={value as number[]} onChange={rest.onChange} />)
    case 'mix':
      return wide('', <MixTable rows={spec.rows} columns={spec.columns} values={value as number[]} onChange={rest.onChange} />)
    case 'place':
      return beside(<PlaceFields title={spec.title} value={value as Place} onChange={rest.onChange} />, 'The handle in the picture moves it.')
    case 'picture':
      return beside(<PictureField label={spec.title} value={value as PictureRef | null} onChange={rest.onChange} />)
    case 'length':
      return <LengthControl spec={spec} value={value as Length} scale={scale} {...rest} />
    case 'number':
      return <NumberParam spec={spec} value={value as number} {...rest} />
    case 'choice':
      return <ChoiceParam title={spec.title} help={spec.help} options={(spec as ChoiceSpec).options} value={String(value)} {...rest} />
    case 'curve':
      return (
        <Frame
          label={spec.title}
          help={`${spec.help} Click adds a point, Delete removes it.`}
          driven={rest.driven}
          onHelp={rest.onHelp}
          field={<span />}
          wide={<CurveEditor points={value as CurvePoint[]} onChange={rest.onChange} />}
        />
      )
    case 'seed':
      return (
        <Frame
          label={spec.title}
          help={spec.help}
          driven={rest.driven}
          onHelp={rest.onHelp}
          field={
            <span style={{ display: 'flex', gap: 4, alignItems: 'center' }}>
              <NumberInput
                aria-label={spec.title}
                w={88}
                hideControls
                min={0}
                max={0x7fffffff}
                value={value as number}
                onChange={(v) => Number.isInteger(v) && rest.onChange(v)}
                styles={{ input: { textAlign: 'right', height: 26, minHeight: 26 } }}
              />
              <Tooltip label="Deal again">
                <ActionIcon aria-label="Deal again" onClick={() => rest.onChange(crypto.getRandomValues(new Uint16Array(1))[0]!)}>
                  <IconDice3 size={17} />
                </ActionIcon>
              </Tooltip>
            </span>
          }
        />
      )
  }
}

/** A point of the picture by numbers, in per cent of its width and height. */
function PlaceFields({ title, value, onChange }: { title: string; value: Place; onChange: OnChange<unknown> }) {
  const field = (axis: 'x' | 'y') => (
    <NumberInput
      aria-label={`${title}, ${axis === 'x' ? 'across' : 'down'}, per cent`}
      w={62}
      hideControls
      suffix=" %"
      decimalScale={1}
      value={Math.round(value[axis] * 1000) / 10}
      step={0.5}
      min={-200}
      max={300}
      onChange={(v) => typeof v === 'number' && v / 100 !== value[axis] && onChange({ ...value, [axis]: v / 100 }, `place-${axis}`)}
      styles={{ input: { textAlign: 'right', height: 26, minHeight: 26, paddingInline: 6 } }}
    />
  )
  return (
    <span style={{ display: 'flex', gap: 4 }}>
      {field('x')}
      {field('y')}
    </span>
  )
}

function ChoiceParam({
  title,
  help,
  options,
  value,
  driven,
  onHelp,
  onChange,
}: ParamProps & { title: string; help: string; options: readonly { value: string; title: string }[]; value: string }) {
  const id = useId()
  return (
    <Frame
      label={title}
      help={help}
      driven={driven}
      onHelp={onHelp}
      labelFor={id}
      field={
        <Select
          id={id}
          w={152}
          data={options.map((o) => ({ value: o.value, label: o.title }))}
          value={value}
          onChange={(v) => v !== null && onChange(v)}
          styles={{ input: { height: 26, minHeight: 26 } }}
          comboboxProps={{ position: 'bottom-end', width: 190 }}
        />
      }
    />
  )
}

/** A control that a recipe brings out, a number or a choice; one of a parameter's type is shown as that parameter is. */
export function RecipeControl({
  control,
  value,
  onHelp,
  onChange,
}: {
  control: Control
  value: number | string
  onHelp: (t: string) => void
  onChange: OnChange<number | string>
}) {
  const { kind } = control
  if (kind.type === 'choice') {
    return (
      <ChoiceParam
        title={control.title}
        help={control.help}
        options={kind.options}
        value={String(value)}
        driven={false}
        onHelp={onHelp}
        onChange={onChange as OnChange<unknown>}
      />
    )
  }
  if (kind.type === 'value') return null
  return (
    <NumberControl
      label={control.title}
      help={control.help}
      value={Number(value)}
      min={kind.min}
      max={kind.max}
      step={kind.step}
      fallback={Number(control.default)}
      feel="even"
      suffix=""
      ends={[kind.low, kind.high]}
      onHelp={onHelp}
      onChange={onChange}
    />
  )
}
