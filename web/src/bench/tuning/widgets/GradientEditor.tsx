import { Menu, ActionIcon, Tooltip } from '@mantine/core'
import { colourAt, gradientSets, hexOfRgb, type GradientStop } from '@nimble-quill/core'
import { IconArrowsExchange, IconPalette, IconTrash } from '@tabler/icons-react'
import { useRef, useState, type KeyboardEvent, type PointerEvent } from 'react'
import type { OnChange } from './on-change.ts'
import { ColourField } from './ColourField.tsx'
import { useDragIn } from './drag.ts'
import widgetsCss from './widgets.module.css'
import partsCss from '../../../parts/parts.module.css'

/** How a gradient looks, as the page draws it: sampled, so that any way of mixing shows. */
export function gradientCss(stops: readonly GradientStop[], space: 'srgb' | 'linear' | 'oklab'): string {
  const at = colourAt(stops, space, Math.pow)
  return `linear-gradient(to right, ${Array.from({ length: 33 }, (_, i) => `${hexOfRgb(at(i / 32))} ${(i / 32) * 100}%`).join(', ')})`
}

const held = (v: number, low: number, high: number) => Math.round(Math.min(high, Math.max(low, v)) * 1000) / 1000

/** Colours along a bar: stops are dragged, added by a click, removed with Delete, moved with the arrow keys. */
export function GradientEditor({
  stops,
  space,
  onChange,
  onChosen,
  background = gradientCss(stops, space),
}: {
  stops: GradientStop[]
  space: 'srgb' | 'linear' | 'oklab'
  onChange: OnChange<GradientStop[]>
  /** Hears which stop is chosen. */
  onChosen?: (i: number) => void
  /** What the bar shows, where it is more than colours. */
  background?: string
}) {
  const bar = useRef<HTMLDivElement>(null)
  const [at, choose] = useState(0)
  const setAt = (i: number) => {
    choose(i)
    onChosen?.(i)
  }
  const chosen = Math.min(at, stops.length - 1)
  const moved = (i: number, x: number): GradientStop[] => {
    const low = i === 0 ? 0 : stops[i - 1]![0] + 0.005
    const high = i === stops.length - 1 ? 1 : stops[i + 1]![0] - 0.005
    return stops.map((s, j) => (j === i ? [held(x, low, high), s[1]] : s))
  }
  const drag = useDragIn<number>(
    () => bar.current,
    (x, _, gesture, i) => onChange(moved(i, x), gesture),
    setAt,
  )
  const add = (e: PointerEvent) => {
    if (e.target !== bar.current || stops.length >= 32) return
    const box = bar.current!.getBoundingClientRect()
    const x = held((e.clientX - box.left) / box.width, 0, 1)
    if (stops.some((s) => Math.abs(s[0] - x) < 0.015)) return
    const stop: GradientStop = [x, hexOfRgb(colourAt(stops, space, Math.pow)(x))]
    const next = [...stops, stop].sort((a, b) => a[0] - b[0])
    setAt(next.indexOf(stop))
    onChange(next)
  }
  const remove = (i: number) => stops.length > 2 && (setAt(0), onChange(stops.filter((_, j) => j !== i)))
  const keys = (e: KeyboardEvent, i: number) => {
    const by = e.key === 'ArrowLeft' ? -0.01 : e.key === 'ArrowRight' ? 0.01 : 0
    if (by) {
      e.preventDefault()
      onChange(moved(i, stops[i]![0] + by * (e.shiftKey ? 5 : 1)), `gradient-keys-${i}`)
    } else if (e.key === 'Delete' || e.key === 'Backspace') {
      e.preventDefault()
      remove(i)
    }
  }
  return (
    <>
      <div ref={bar} className={widgetsCss.gradient} style={{ background }} role="group" aria-label="Gradient" onPointerDown={add}>
        {stops.map(([x, hex], i) => (
          <button
            key={i}
            role="slider"
            aria-label={`Stop ${i + 1}, ${hex}`}
            aria-valuenow={Math.round(x * 100)}
            aria-valuetext={`${Math.round(x * 100)} %`}
            data-chosen={i === chosen || undefined}
            style={{ left: `${x * 100}%`, background: hex }}
            onFocus={() => setAt(i)}
            onKeyDown={(e) => keys(e, i)}
            {...drag(i)}
          />
        ))}
      </div>
      <div className={widgetsCss.gradientRow}>
        <ColourField
          label={`Stop ${chosen + 1}`}
          value={stops[chosen]![1]}
          onChange={(hex, gesture) => onChange(stops.map((s, j) => (j === chosen ? [s[0], hex] : s)) as GradientStop[], gesture)}
        />
        <span className={partsCss.faint}>at {Math.round(stops[chosen]![0] * 100)} %</span>
        <span style={{ flex: 1 }} />
        <Tooltip label="Remove this stop">
          <ActionIcon size={26} aria-label="Remove this stop" disabled={stops.length <= 2} onClick={() => remove(chosen)}>
            <IconTrash size={15} />
          </ActionIcon>
        </Tooltip>
        <Tooltip label="Turn round: lights for darks">
          <ActionIcon size={26} aria-label="Turn round" onClick={() => onChange([...stops].reverse().map(([x, c]) => [Math.round((1 - x) * 1000) / 1000, c]))}>
            <IconArrowsExchange size={15} />
          </ActionIcon>
        </Tooltip>
        <Menu position="bottom-end">
          <Menu.Target>
            <ActionIcon size={26} aria-label="Built-in gradients" title="Gradients that come with the program">
              <IconPalette size={16} />
            </ActionIcon>
          </Menu.Target>
          <Menu.Dropdown>
            {gradientSets.map((g) => (
              <Menu.Item
                key={g.id}
                onClick={() => onChange([...g.stops])}
                leftSection={<i className={widgetsCss.strip} style={{ background: gradientCss(g.stops, space) }} />}
              >
                {g.title}
              </Menu.Item>
            ))}
          </Menu.Dropdown>
        </Menu>
      </div>
    </>
  )
}
