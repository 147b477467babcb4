import { NumberInput, SegmentedControl, Select, Text } from '@mantine/core'
import { convertLength, formatParam, locate, perform, stepAt, type Artwork, type Length, type ParamSpec, type Scale } from '@nimble-quill/core'
import { useMemo, useState } from 'react'
import { useAct } from '../../store/store.ts'
import { CellSheet } from './Cells.tsx'
import { command, openProofSheet } from '../slice.ts'
import partsCss from '../../parts/parts.module.css'

interface Axis {
  param: string
  from: number
  to: number
}

/** A control's values as plain numbers, in the unit they are shown in. */
interface Range {
  min: number
  max: number
  now: number
  unit: string
  byRatio: boolean
  whole: boolean
}
function rangeOf(spec: ParamSpec, value: unknown, scale: Scale): Range | null {
  if (spec.type === 'length') {
    const l = value as Length
    const [min, max] = [spec.min, spec.max].map((px) => convertLength({ value: px, unit: 'px' }, l.unit, scale).value)
    return { min: min!, max: max!, now: l.value, unit: l.unit, byRatio: true, whole: false }
  }
  if (spec.type === 'number') {
    const k = spec.unit === '%' ? 100 : 1
    return {
      min: spec.min * k,
      max: spec.max * k,
      now: (value as number) * k,
      unit: spec.unit === 'tone' ? '' : spec.unit,
      byRatio: spec.feel === 'log' && spec.min > 0,
      whole: spec.step >= 1,
    }
  }
  return null
}

function valueOf(spec: ParamSpec, shown: number, value: unknown): unknown {
  const tidy = Number(shown.toPrecision(3))
  if (spec.type === 'length') return { value: tidy, unit: (value as Length).unit }
  if (spec.type !== 'number') return value
  const plain = spec.unit === '%' ? tidy / 100 : tidy
  return Math.min(spec.max, Math.max(spec.min, spec.step >= 1 ? Math.round(plain) : plain))
}

/** n values from one to another: lengths by ratio, all else by difference. */
export function spaced(from: number, to: number, n: number, byRatio: boolean): number[] {
  return Array.from({ length: n }, (_, i) => {
    const t = n === 1 ? 0 : i / (n - 1)
    return byRatio && from > 0 && to > 0 ? from * (to / from) ** t : from + (to - from) * t
  })
}

/**
 * About a value: half to double by ratio, or a third of the range to each side. Whole numbers from whole to whole, as many as there are cells where
 * the range has them.
 */
export function about(r: Pick<Range, 'min' | 'max' | 'now' | 'byRatio' | 'whole'>, cells: number): { from: number; to: number } {
  const [low, high] = r.byRatio ? [r.now / 2.5, r.now * 2.5] : [r.now - (r.max - r.min) / 3, r.now + (r.max - r.min) / 3]
  if (!r.whole) {
    const held = (v: number) => Number(Math.min(r.max, Math.max(r.min, v)).toPrecision(3))
    return { from: held(low), to: held(high) }
  }
  const span = Math.min(r.max - r.min, Math.max(Math.round(high - low), cells - 1))
  const from = Math.min(r.max - span, Math.max(r.min, Math.round((low + high - span) / 2)))
  return { from, to: from + span }
}

/** One step made many times, one or two of its values varied, over the whole bench; a click enlarges, Take applies. */
export function ProofSheet({ artwork, at }: { artwork: Artwork; at: { layer: string; step: string } }) {
  const act = useAct()
  const { layer } = locate(artwork.layers, at.layer)
  const use = layer.chain.find((s) => s.id === at.step)!
  const def = stepAt(use.step, use.version)
  const scale = { reference: artwork.reference, ppi: artwork.sheet.ppi }
  const shown = Object.entries(def.params).filter(
    ([name, spec]) => rangeOf(spec, use.params[name], scale) && (!spec.when || spec.when.is.includes(String(use.params[spec.when.param]))),
  )
  const [side, setSide] = useState(3)
  const axisOf = (name: string, cells: number): Axis => ({ param: name, ...about(rangeOf(def.params[name]!, use.params[name], scale)!, cells) })
  const [across, setAcross] = useState<Axis | null>(() => (shown[0] ? axisOf(shown[0][0], side * side) : null))
  const [down, setDown] = useState<Axis | null>(null)
  const whole = (axis: Axis) => rangeOf(def.params[axis.param]!, use.params[axis.param], scale)!.whole
  const [large, setLarge] = useState<number | null>(null)

  const cells = useMemo(() => {
    if (!across) return { all: [], across: null }
    const values = (axis: Axis, n: number) => {
      const spec = def.params[axis.param]!
      const r = rangeOf(spec, use.params[axis.param], scale)!
      const made = spaced(axis.from, axis.to, n, r.byRatio).map((v) => valueOf(spec, v, use.params[axis.param]))
      // whole numbers may come more than once
      return made.filter((v, i) => made.findIndex((o) => formatParam(spec, o) === formatParam(spec, v)) === i)
    }
    // one value: over all cells in reading order; two: the first across, the second down
    const first = values(across, down ? side : side * side)
    const second = down ? values(down, side) : null
    const all = Array.from({ length: first.length * (second?.length ?? 1) }, (_, i) => {
      const params: Record<string, unknown> = { [across.param]: first[i % first.length] }
      if (second) params[down!.param] = second[Math.floor(i / first.length)]
      const name = Object.entries(params)
        .map(([k, v]) => `${def.params[k]!.title} ${formatParam(def.params[k]!, v)}`)
        .join(', ')
      return { params, name, made: perform(artwork, { type: 'set-params', layer: at.layer, step: at.step, params, name }).artwork }
    })
    return { all, across: second ? first.length : null }
    // the artwork stays as it is while the sheet is open
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [artwork, across, down, side])

  const take = (i: number) => {
    const { params, name } = cells.all[i]!
    act(command({ command: { type: 'set-params', layer: at.layer, step: at.step, params, name } }))
    act(openProofSheet(null))
  }
  const options = shown.map(([name, spec]) => ({ value: name, label: spec.title }))
  return (
    <CellSheet
      artwork={artwork}
      name={`Proof sheet of ${def.title}`}
      title={`Proof sheet: ${def.title}`}
      all={cells.all}
      across={cells.across}
      large={large}
      onLarge={setLarge}
      onTake={take}
      bar={
        <>
          <Select
            aria-label="Varied"
            w={150}
            data={options}
            value={across?.param ?? null}
            onChange={(v) => v && setAcross(axisOf(v, down ? side : side * side))}
            placeholder="Nothing to vary"
          />
          {across && <Ends axis={across} whole={whole(across)} onChange={setAcross} label="Varied" />}
          <Select
            aria-label="Varied too, down"
            w={150}
            clearable
            placeholder="and down: nothing"
            data={options.filter((o) => o.value !== across?.param)}
            value={down?.param ?? null}
            onChange={(v) => {
              setDown(v ? axisOf(v, side) : null)
              if (across) setAcross(axisOf(across.param, v ? side : side * side))
            }}
          />
          {down && <Ends axis={down} whole={whole(down)} onChange={setDown} label="Varied too" />}
          <SegmentedControl
            size="xs"
            aria-label="Cells"
            value={String(side)}
            onChange={(v) => (setSide(Number(v)), setLarge(null))}
            data={['3', '4', '5'].map((v) => ({ value: v, label: `${v} × ${v}` }))}
          />
        </>
      }
    >
      {cells.all.length === 0 && <Text c="var(--faint)">This step has no number or length to vary.</Text>}
    </CellSheet>
  )
}

function Ends({ axis, whole, label, onChange }: { axis: Axis; whole: boolean; label: string; onChange: (a: Axis) => void }) {
  const field = (end: 'from' | 'to') => (
    <NumberInput
      aria-label={`${label}, ${end}`}
      w={70}
      hideControls
      decimalScale={whole ? 0 : 3}
      value={axis[end]}
      onChange={(v) => typeof v === 'number' && v !== axis[end] && onChange({ ...axis, [end]: v })}
    />
  )
  return (
    <span style={{ display: 'flex', gap: 4, alignItems: 'center' }}>
      {field('from')}
      <span className={partsCss.faint}>to</span>
      {field('to')}
    </span>
  )
}
