import { NumberInput, SegmentedControl } from '@mantine/core'
import { useEffect, useState } from 'react'
import { useAct, useApp } from '../../store/store.ts'
import tuningCss from '../tuning/tuning.module.css'
import { setPlace, type PlaceUnit } from './slice.ts'

/** What the numbers of a hand count in. */
export function NumbersIn({ help }: { help: object }) {
  const act = useAct()
  const unit = useApp((s) => s.hands.place.unit)
  return (
    <div className={tuningCss.control} {...help}>
      <span className={tuningCss.label}>Numbers in</span>
      <SegmentedControl
        size="xs"
        aria-label="Numbers in"
        data={['px', 'mm', 'in', '%']}
        value={unit}
        onChange={(v) => act(setPlace({ unit: v as PlaceUnit }))}
      />
    </div>
  )
}

/** A number that is taken when it is whole: by Enter, by leaving the field, or step by step. */
export function Field({ label, suffix, value, onTake }: { label: string; suffix: string; value: number; onTake: (v: number) => void }) {
  const fine = suffix === ' in'
  const shown = Number(value.toFixed(fine ? 3 : 2))
  const step = fine ? 0.05 : 1
  const [typed, setTyped] = useState<number | string>(shown)
  useEffect(() => setTyped(shown), [shown])
  const take = () => {
    if (typeof typed === 'number' && typed !== shown) onTake(typed)
    // what is refused is not left standing there; what is taken comes back as what is shown
    setTyped(shown)
  }
  return (
    <NumberInput
      size="xs"
      label={label}
      value={typed}
      suffix={suffix}
      decimalScale={3}
      hideControls
      withKeyboardEvents={false}
      onChange={setTyped}
      onBlur={take}
      onKeyDown={(e) => {
        if (e.key === 'Enter') take()
        const by = e.key === 'ArrowUp' ? 1 : e.key === 'ArrowDown' ? -1 : 0
        if (!by) return
        e.preventDefault()
        onTake(shown + by * step * (e.shiftKey ? 10 : 1))
      }}
    />
  )
}
