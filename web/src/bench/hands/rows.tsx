import { Select } from '@mantine/core'
import type { Length } from '@nimble-quill/core'
import { NumberControl } from '../tuning/NumberControl.tsx'
import { breadthIn } from './pen.ts'
import tuningCss from '../tuning/tuning.module.css'

// Rows of the column of a hand.

interface Row {
  label: string
  help: string
  onHelp: (t: string) => void
}

/** A number, spread evenly; what is usual is its `fallback`. */
export function NumberRow({
  min,
  max,
  step = 1,
  fallback = 0,
  suffix = '',
  ...rest
}: Row & {
  value: number
  min: number
  max: number
  step?: number
  fallback?: number
  suffix?: string
  onChange: (v: number, gesture?: string) => void
}) {
  return <NumberControl min={min} max={max} step={step} fallback={fallback} feel="even" suffix={suffix} {...rest} />
}

/** A share, in per cent. */
export function ShareRow({
  value,
  onChange,
  fallback = 1,
  ...rest
}: Row & { value: number; fallback?: number; onChange: (v: number, gesture?: string) => void }) {
  return (
    <NumberRow value={value * 100} min={0} max={100} fallback={fallback * 100} suffix=" %" onChange={(v, gesture) => onChange(v / 100, gesture)} {...rest} />
  )
}

/** The unit of a length, beside its number. */
export function UnitOf<U extends Length['unit']>({ label, unit, units, onUnit }: { label: string; unit: U; units: readonly U[]; onUnit: (u: U) => void }) {
  return (
    <Select
      w={58}
      aria-label={`${label}, unit`}
      data={[...units]}
      value={unit}
      onChange={(u) => onUnit(u as U)}
      styles={{ input: { height: 26, minHeight: 26, paddingInline: 6 }, section: { width: 18 } }}
      comboboxProps={{ width: 80, position: 'bottom-end' }}
    />
  )
}

/** One of some ways. */
export function ChoiceRow<V extends string>({
  label,
  help,
  value,
  ways,
  onHelp,
  onChange,
}: Row & { value: V; ways: Readonly<Record<V, string>>; onChange: (v: V) => void }) {
  return (
    <div className={tuningCss.control} onPointerEnter={() => onHelp(help)} onFocus={() => onHelp(help)}>
      <span className={tuningCss.label}>{label}</span>
      <Select
        w={130}
        aria-label={label}
        data={Object.entries<string>(ways).map(([v, title]) => ({ value: v, label: title }))}
        value={value}
        onChange={(v) => v && onChange(v as V)}
        styles={{ input: { height: 26, minHeight: 26 } }}
      />
    </div>
  )
}

interface Steps {
  min: number
  step: number
  fallback: number
}

/** How broad a tool draws, in pixels of the sheet or in millimetres; the unit is changed without changing what it draws. */
export function BreadthRow({
  breadth: { value, unit },
  ppi,
  px,
  mm,
  most,
  help,
  onHelp,
  onChange,
}: Omit<Row, 'label'> & {
  breadth: { value: number; unit: 'px' | 'mm' }
  ppi: number
  px: Steps
  mm: Steps
  /** Pixels. */
  most: number
  onChange: (breadth: { value: number; unit: 'px' | 'mm' }) => void
}) {
  const inMm = (v: number) => Number(((v / ppi) * 25.4).toPrecision(3))
  const { min, step, fallback } = unit === 'px' ? px : mm
  return (
    <NumberControl
      label="Breadth"
      help={help}
      value={value}
      min={min}
      max={unit === 'px' ? most : inMm(most)}
      step={step}
      fallback={fallback}
      feel="log"
      suffix=""
      onHelp={onHelp}
      onChange={(v) => onChange({ value: v, unit })}
      after={
        <UnitOf
          label="Breadth"
          unit={unit}
          units={['px', 'mm']}
          onUnit={(to) => {
            const full = breadthIn({ value, unit }, ppi)
            onChange(to === 'px' ? { value: Math.max(px.min, Math.round(full / px.step) * px.step), unit: 'px' } : { value: inMm(full), unit: 'mm' })
          }}
        />
      }
    />
  )
}
