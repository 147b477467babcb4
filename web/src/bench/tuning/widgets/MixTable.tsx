import { NumberInput, Table } from '@mantine/core'
import type { OnChange } from './on-change.ts'
import widgetsCss from './widgets.module.css'

const short = (name: string) => (name === 'Constant' ? 'Add' : name.length > 5 ? name.slice(0, 3) : name)

/** Weights in a table: a row for each channel that comes out, in per cent. */
export function MixTable({
  rows,
  columns,
  values,
  onChange,
}: {
  rows: readonly string[]
  columns: readonly string[]
  values: number[]
  onChange: OnChange<number[]>
}) {
  return (
    <Table className={widgetsCss.mix} withRowBorders={false} verticalSpacing={2} horizontalSpacing={2}>
      <Table.Thead>
        <Table.Tr>
          <Table.Th />
          {columns.map((c) => (
            <Table.Th key={c} title={c}>
              {short(c)}
            </Table.Th>
          ))}
        </Table.Tr>
      </Table.Thead>
      <Table.Tbody>
        {rows.map((r, i) => (
          <Table.Tr key={r}>
            <Table.Th title={r} scope="row">
              {short(r)}
            </Table.Th>
            {columns.map((c, j) => {
              const at = i * columns.length + j
              const v = Math.round(values[at]! * 1000) / 10
              const put = (n: number, gesture: string) => {
                const held = Math.min(400, Math.max(-400, n))
                if (held !== v)
                  onChange(
                    values.map((old, k) => (k === at ? held / 100 : old)),
                    gesture,
                  )
              }
              return (
                <Table.Td key={c}>
                  <NumberInput
                    aria-label={`${r} out of ${c}, per cent`}
                    hideControls
                    withKeyboardEvents={false}
                    value={v}
                    decimalScale={1}
                    onChange={(n) => typeof n === 'number' && put(n, `mix-${at}`)}
                    onKeyDown={(e) => {
                      const by = e.key === 'ArrowUp' ? 1 : e.key === 'ArrowDown' ? -1 : 0
                      if (!by) return
                      e.preventDefault()
                      put(v + by * (e.shiftKey ? 10 : 1), `mix-keys-${at}`)
                    }}
                    data-zero={v === 0 || undefined}
                    styles={{ input: { textAlign: 'right', height: 24, minHeight: 24, paddingInline: 3, fontSize: 11.5 } }}
                  />
                </Table.Td>
              )
            })}
          </Table.Tr>
        ))}
      </Table.Tbody>
    </Table>
  )
}
