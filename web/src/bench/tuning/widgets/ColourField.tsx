import { ActionIcon, ColorPicker, NumberInput, Popover, SegmentedControl, TextInput, Tooltip } from '@mantine/core'
import { hexOfRgb, labOfRgb, oklabOfRgb, rgbOfHex, rgbOfLab, rgbOfOklab } from '@nimble-quill/core'
import { IconColorPicker } from '@tabler/icons-react'
import { useEffect, useState } from 'react'
import { useDropper } from '../dropper.ts'
import widgetsCss from './widgets.module.css'

type Triple = [number, number, number]
type Space = 'srgb' | 'lab' | 'oklch'

const pow = Math.pow
const spaces: Record<Space, { title: string; names: [string, string, string]; step: Triple; of: (hex: string) => Triple; hex: (v: Triple) => string }> = {
  srgb: {
    title: 'sRGB',
    names: ['R', 'G', 'B'],
    step: [1, 1, 1],
    of: (hex) => rgbOfHex(hex).map((v) => v * 255) as Triple,
    hex: (v) => hexOfRgb(v.map((c) => c / 255)),
  },
  lab: {
    title: 'Lab',
    names: ['L*', 'a*', 'b*'],
    step: [1, 1, 1],
    of: (hex) => labOfRgb(rgbOfHex(hex), pow),
    hex: (v) => hexOfRgb(rgbOfLab(v, pow)),
  },
  oklch: {
    title: 'OKLCH',
    names: ['L', 'C', 'h'],
    step: [0.01, 0.005, 1],
    of: (hex) => {
      const [l, a, b] = oklabOfRgb(rgbOfHex(hex), pow)
      return [l, Math.hypot(a, b), ((Math.atan2(b, a) * 180) / Math.PI + 360) % 360]
    },
    hex: ([l, c, h]) => hexOfRgb(rgbOfOklab([l, c * Math.cos((h * Math.PI) / 180), c * Math.sin((h * Math.PI) / 180)], pow)),
  },
}

interface Props {
  label: string
  value: string
  onChange: (hex: string, gesture?: string) => void
  /** Shown as a bare swatch. */
  small?: boolean
}

let fields = 0

/** A colour: by eye, by hex, sRGB, Lab or OKLCH, or picked from the picture. */
export function ColourField({ label, value, onChange, small }: Props) {
  const [open, setOpen] = useState(false)
  const dropper = useDropper()
  const pick = () => {
    setOpen(false)
    dropper.ask((hex) => onChange(hex))
  }
  return (
    <span style={{ display: 'flex', gap: 4, alignItems: 'center' }}>
      <Popover opened={open} onChange={setOpen} position="left" withinPortal trapFocus>
        <Popover.Target>
          <button
            className={widgetsCss.swatch}
            data-part="swatch"
            data-small={small || undefined}
            aria-label={`${label}, ${value}`}
            onClick={() => setOpen(!open)}
          >
            <i style={{ background: value }} />
            {!small && value}
          </button>
        </Popover.Target>
        <Popover.Dropdown p={10}>{open && <Choosing label={label} value={value} onChange={onChange} onPick={pick} />}</Popover.Dropdown>
      </Popover>
      {!small && (
        <Tooltip label="Pick from the picture">
          <ActionIcon size={26} aria-label={`Pick ${label.toLowerCase()} from the picture`} onClick={pick}>
            <IconColorPicker size={16} />
          </ActionIcon>
        </Tooltip>
      )}
    </span>
  )
}

function Choosing({ label, value, onChange, onPick }: Omit<Props, 'small'> & { onPick: () => void }) {
  const [space, setSpace] = useState<Space>('oklch')
  const [hex, setHex] = useState(value)
  const [gesture] = useState(() => `colour-${++fields}`)
  useEffect(() => setHex(value), [value])
  const s = spaces[space]
  const numbers = s.of(value)
  return (
    <div style={{ width: 216, display: 'flex', flexDirection: 'column', gap: 8 }}>
      <ColorPicker
        format="hex"
        value={value}
        fullWidth
        onChange={(v) => v !== value && onChange(v, gesture)}
        saturationLabel="Saturation and lightness"
        hueLabel="Hue"
      />
      <div style={{ display: 'flex', gap: 6 }}>
        <TextInput
          aria-label={`${label}, hex`}
          value={hex}
          style={{ flex: 1 }}
          onChange={(e) => {
            setHex(e.currentTarget.value)
            if (/^#[0-9a-f]{6}$/i.test(e.currentTarget.value)) onChange(e.currentTarget.value.toLowerCase(), gesture)
          }}
          onBlur={() => setHex(value)}
        />
        <Tooltip label="Pick from the picture">
          <ActionIcon aria-label="Pick from the picture" onClick={onPick}>
            <IconColorPicker size={16} />
          </ActionIcon>
        </Tooltip>
      </div>
      <SegmentedControl
        size="xs"
        fullWidth
        value={space}
        onChange={(v) => setSpace(v as Space)}
        data={Object.entries(spaces).map(([k, v]) => ({ value: k, label: v.title }))}
      />
      <div style={{ display: 'flex', gap: 4 }}>
        {s.names.map((name, i) => (
          <NumberInput
            key={name}
            aria-label={`${label}, ${s.title} ${name}`}
            leftSection={<small>{name}</small>}
            leftSectionWidth={22}
            hideControls
            step={s.step[i]!}
            decimalScale={s.step[i]! < 1 ? 3 : 1}
            value={Number(numbers[i]!.toFixed(s.step[i]! < 1 ? 3 : 1))}
            onChange={(v) => {
              if (typeof v !== 'number') return
              const next = s.hex(numbers.map((n, k) => (k === i ? v : n)) as Triple)
              if (next !== value) onChange(next, gesture)
            }}
            styles={{ input: { paddingLeft: 22, paddingRight: 2 } }}
          />
        ))}
      </div>
    </div>
  )
}
