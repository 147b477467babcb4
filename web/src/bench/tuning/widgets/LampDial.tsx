import { NumberInput } from '@mantine/core'
import { IconBulb } from '@tabler/icons-react'
import { useRef, type KeyboardEvent } from 'react'
import { useDragIn } from './drag.ts'
import tuningCss from '../tuning.module.css'
import widgetsCss from './widgets.module.css'

const SIDE = 120
const RIM = 50
/** Degrees at which the lamp stands on the rim; 90 is overhead, in the middle. */
const LOWEST = 5

export interface Lamp {
  direction: number
  height: number
}
interface Props {
  lamp: Lamp
  onHelp: (text: string) => void
  onChange: (lamp: Lamp, gesture?: string) => void
}

/** The lamp over the sheet, seen from above: dragged round and to the rim, where it stands low; arrow keys turn and raise it. */
export function LampDial({ lamp, onHelp, onChange }: Props) {
  const svg = useRef<SVGSVGElement>(null)
  const rad = (lamp.direction * Math.PI) / 180
  const far = ((90 - lamp.height) / (90 - LOWEST)) * RIM
  const [x, y] = [SIDE / 2 + far * Math.cos(rad), SIDE / 2 - far * Math.sin(rad)]
  const drag = useDragIn(
    () => svg.current,
    (px, py, gesture) => {
      const [dx, dy] = [(px - 0.5) * SIDE, (0.5 - py) * SIDE]
      const height = 90 - (Math.min(RIM, Math.hypot(dx, dy)) / RIM) * (90 - LOWEST)
      onChange({ direction: Math.round((Math.atan2(dy, dx) * 180) / Math.PI), height: Math.round(height) }, gesture)
    },
  )
  const keys = (e: KeyboardEvent) => {
    const step = e.shiftKey ? 15 : 3
    const by = { ArrowLeft: [step, 0], ArrowRight: [-step, 0], ArrowUp: [0, step], ArrowDown: [0, -step] }[e.key]
    if (!by) return
    e.preventDefault()
    onChange({ direction: lamp.direction + by[0]!, height: lamp.height + by[1]! }, 'lamp-keys')
  }
  const field = (label: string, value: number, min: number, max: number, put: (v: number) => Lamp) => (
    <NumberInput
      aria-label={label}
      value={Math.round(value)}
      min={min}
      max={max}
      suffix="°"
      hideControls
      w={74}
      onChange={(v) => typeof v === 'number' && v !== Math.round(value) && v >= min && v <= max && onChange(put(v), `lamp-${label}`)}
      styles={{ input: { textAlign: 'right', height: 26, minHeight: 26 } }}
    />
  )
  const help = 'The artwork’s one lamp, seen from above: drag it round, and outwards to let it stand low. All reliefs are lit by it.'
  return (
    <div className={`${tuningCss.control} ${widgetsCss.lamp}`} onPointerEnter={() => onHelp(help)} onFocus={() => onHelp(help)}>
      <span className={tuningCss.label}>Lamp of the artwork</span>
      <div className={`${tuningCss.wide} ${widgetsCss.lampRow}`}>
        <svg ref={svg} viewBox={`0 0 ${SIDE} ${SIDE}`} width={SIDE} height={SIDE} role="group" aria-label="Lamp of the artwork">
          {[1, 2 / 3, 1 / 3].map((r) => (
            <circle key={r} cx={SIDE / 2} cy={SIDE / 2} r={RIM * r} fill="none" stroke="var(--line)" strokeDasharray={r === 1 ? undefined : '2 3'} />
          ))}
          <path d={`M${SIDE / 2} ${SIDE / 2}L${x} ${y}`} stroke="var(--faint)" />
          <g
            transform={`translate(${x} ${y})`}
            tabIndex={0}
            role="slider"
            aria-label="Lamp"
            aria-valuenow={Math.round(lamp.direction)}
            aria-valuetext={`from ${Math.round(lamp.direction)}°, ${Math.round(lamp.height)}° high`}
            onKeyDown={keys}
            {...drag()}
          >
            <circle r={12} fill="var(--paper)" stroke="var(--ink)" strokeWidth={1.4} />
            <IconBulb x={-8} y={-8} size={16} />
          </g>
        </svg>
        <div className={widgetsCss.fields}>
          <label>from {field('Lamp from', lamp.direction, -180, 180, (direction) => ({ ...lamp, direction }))}</label>
          <label>high {field('Lamp high', lamp.height, LOWEST, 90, (height) => ({ ...lamp, height }))}</label>
        </div>
      </div>
    </div>
  )
}
