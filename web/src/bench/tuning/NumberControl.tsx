import { NumberInput, Slider } from '@mantine/core'
import { useId, useRef, useState, type ReactNode } from 'react'
import type { OnChange } from './widgets/on-change.ts'
import { Frame } from './Frame.tsx'
import tuningCss from './tuning.module.css'

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
  // what was refused is not left standing there
  const [left, setLeft] = useState(0)
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
            key={left}
            id={id}
            onBlur={() => setLeft((n) => n + 1)}
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
            <div className={tuningCss.ends} data-part="ends">
              <span>{ends[0]}</span>
              <span>{ends[1]}</span>
            </div>
          )}
        </>
      }
    />
  )
}
