import { NumberInput, Popover, Text } from '@mantine/core'
import type { Artwork } from '@nimble-quill/core'
import { useEffect, useState } from 'react'
import { useAct } from '../../store/store.ts'
import { command } from '../slice.ts'
import tuningCss from './tuning.module.css'

/** How large the sheet is, in pixels and on paper; its resolution can be changed. */
export function SheetSize({ sheet }: { sheet: Artwork['sheet'] }) {
  const act = useAct()
  const [open, setOpen] = useState(false)
  // half a number is not a resolution: it is taken when it is whole
  const [typed, setTyped] = useState<number | string>(sheet.ppi)
  useEffect(() => setTyped(sheet.ppi), [sheet.ppi, open])
  const take = () => {
    if (typeof typed === 'number' && typed >= 1 && typed <= 10000) {
      if (typed !== sheet.ppi) act(command({ command: { type: 'set-ppi', ppi: typed } }))
    } else setTyped(sheet.ppi)
  }
  const mm = (px: number) => Math.round((px / sheet.ppi) * 25.4)
  return (
    <Popover opened={open} onChange={setOpen} position="bottom-start" trapFocus>
      <Popover.Target>
        <button className={tuningCss.sheetSize} aria-label={`Sheet: ${sheet.w} × ${sheet.h} pixels, ${sheet.ppi} ppi`} onClick={() => setOpen(!open)}>
          {sheet.w} × {sheet.h} px, {sheet.ppi} ppi
        </button>
      </Popover.Target>
      <Popover.Dropdown w={270}>
        <NumberInput
          label="Resolution"
          description="What millimetres and lines per inch go by. The pixels stay as they are."
          suffix=" ppi"
          min={1}
          max={10000}
          value={typed}
          onChange={setTyped}
          onBlur={take}
          onKeyDown={(e) => e.key === 'Enter' && take()}
        />
        <Text size="sm" mt={8}>
          {mm(sheet.w)} × {mm(sheet.h)} mm on paper
        </Text>
      </Popover.Dropdown>
    </Popover>
  )
}
