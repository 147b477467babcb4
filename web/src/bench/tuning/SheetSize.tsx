import { NumberInput, Popover, SegmentedControl, Switch } from '@mantine/core'
import { ppiFor, type Artwork } from '@nimble-quill/core'
import { useEffect, useState } from 'react'
import { useAct } from '../../store/store.ts'
import { command } from '../slice.ts'
import tuningCss from './tuning.module.css'

/** How large the sheet is, in pixels and on paper; its resolution can be changed, and whether it is printed on real stock. */
export function SheetSize({ sheet, stock }: { sheet: Artwork['sheet']; stock: Artwork['stock'] }) {
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
  const long = Math.max(sheet.w, sheet.h)
  const [side, setSide] = useState<number | string>(mm(long))
  // eslint-disable-next-line react-hooks/exhaustive-deps
  useEffect(() => setSide(mm(long)), [sheet.ppi, long, open])
  const takeSide = () => {
    const ppi = typeof side === 'number' && side > 0 ? ppiFor(long, side) : null
    if (ppi !== null && side !== mm(long)) act(command({ command: { type: 'set-ppi', ppi } }))
    else setSide(mm(long))
  }
  return (
    <Popover opened={open} onChange={setOpen} position="bottom-start" trapFocus>
      <Popover.Target>
        <button className={tuningCss.sheetSize} aria-label={`Sheet: ${sheet.w} × ${sheet.h} pixels, ${sheet.ppi} ppi`} onClick={() => setOpen(!open)}>
          {sheet.w} × {sheet.h} px, {sheet.ppi} ppi{stock.relief ? '' : ', for real stock'}
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
        <NumberInput
          mt={8}
          label="Long side on paper"
          description={`${mm(sheet.w)} × ${mm(sheet.h)} mm${sheet.sized ? '' : ', until another size is said'}. Marks of tools, as broad as a pen or a lead, go by it.`}
          suffix=" mm"
          min={1}
          max={20000}
          value={side}
          onChange={setSide}
          onBlur={takeSide}
          onKeyDown={(e) => e.key === 'Enter' && takeSide()}
        />
        <Switch
          mt={12}
          size="xs"
          label="For real stock"
          description="Papers, grounds and relief are left out of view and render: the paper it is printed on does their work."
          checked={!stock.relief}
          onChange={(e) => act(command({ command: { type: 'set-stock', real: e.currentTarget.checked, marks: stock.marks } }))}
        />
        {!stock.relief && (
          <SegmentedControl
            mt={8}
            size="xs"
            fullWidth
            aria-label="Marks on real stock"
            data={[
              { value: 'broken', label: 'Marks stay broken' },
              { value: 'closed', label: 'Marks close' },
            ]}
            value={stock.marks}
            onChange={(v) => act(command({ command: { type: 'set-stock', real: true, marks: v as 'broken' | 'closed' } }))}
          />
        )}
      </Popover.Dropdown>
    </Popover>
  )
}
