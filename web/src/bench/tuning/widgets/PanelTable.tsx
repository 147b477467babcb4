import type { Colourway, Panel } from '@nimble-quill/core'
import { IconLock, IconStackPop } from '@tabler/icons-react'
import { useRef } from 'react'
import css from './panel-table.module.css'

interface Props {
  panels: readonly Panel[]
  rows: number
  columns: number
  ways: ReadonlyMap<string, Colourway>
  at: Pick<Panel, 'row' | 'column'> | null
  onTake: (p: Pick<Panel, 'row' | 'column'>) => void
  onSwap: (a: Pick<Panel, 'row' | 'column'>, b: Pick<Panel, 'row' | 'column'>) => void
}

/** The panels as a table of their colourways: one is chosen by a click or with the arrow keys, two are swapped by dragging one onto the other. */
export function PanelTable({ panels, rows, columns, ways, at, onTake, onSwap }: Props) {
  const from = useRef<Pick<Panel, 'row' | 'column'> | null>(null)
  const cellAt = (x: number, y: number) => {
    const cell = document.elementFromPoint(x, y)?.closest<HTMLElement>('[data-panel]')?.dataset['panel']
    if (!cell) return null
    const [row, column] = cell.split(' ').map(Number) as [number, number]
    return { row, column }
  }
  return (
    <div className={css.table} role="grid" aria-label="Panels" style={{ gridTemplateColumns: `repeat(${columns}, 1fr)` }}>
      {panels.map((p) => {
        const on = at?.row === p.row && at.column === p.column
        const way = p.colourway === null ? undefined : ways.get(p.colourway)
        return (
          <button
            key={`${p.row} ${p.column}`}
            type="button"
            role="gridcell"
            aria-selected={on}
            data-panel={`${p.row} ${p.column}`}
            data-out={p.own !== null || undefined}
            tabIndex={on || (!at && p.row === 0 && p.column === 0) ? 0 : -1}
            aria-label={`Panel ${p.row + 1}, ${p.column + 1}: ${way?.name ?? 'as the picture is'}${p.locked ? ', locked' : ''}${p.own !== null ? ', taken out' : ''}`}
            title={way?.name ?? 'As the picture is'}
            style={{ background: swatch(way) }}
            onClick={() => onTake({ row: p.row, column: p.column })}
            onPointerDown={(e) => {
              from.current = { row: p.row, column: p.column }
              // so that it ends wherever it is let go
              ;(e.target as HTMLElement).releasePointerCapture?.(e.pointerId)
            }}
            onPointerUp={(e) => {
              const [a, b] = [from.current, cellAt(e.clientX, e.clientY)]
              from.current = null
              if (a && b && (a.row !== b.row || a.column !== b.column)) onSwap(a, b)
            }}
            onKeyDown={(e) => {
              const by = { ArrowLeft: [0, -1], ArrowRight: [0, 1], ArrowUp: [-1, 0], ArrowDown: [1, 0] }[e.key]
              if (!by) return
              e.preventDefault()
              const next = { row: Math.min(rows - 1, Math.max(0, p.row + by[0]!)), column: Math.min(columns - 1, Math.max(0, p.column + by[1]!)) }
              onTake(next)
              ;(e.currentTarget.parentElement?.querySelector(`[data-panel="${next.row} ${next.column}"]`) as HTMLElement | null)?.focus()
            }}
          >
            {p.locked && <IconLock size={12} aria-hidden />}
            {p.own !== null && <IconStackPop size={12} aria-hidden />}
          </button>
        )
      })}
    </div>
  )
}

/** What a colourway looks like, small. */
function swatch(way: Colourway | undefined): string {
  if (!way) return 'linear-gradient(135deg, #444, #eee)'
  const { change } = way
  if (change.type === 'palette') {
    const n = change.colours.length
    return `linear-gradient(90deg, ${change.colours.map((c, i) => `${c} ${(i / n) * 100}% ${((i + 1) / n) * 100}%`).join(', ')})`
  }
  if (change.type === 'gradient') return `linear-gradient(90deg, ${change.stops.map(([t, c]) => `${c} ${t * 100}%`).join(', ')})`
  return `linear-gradient(90deg, ${[0, 120, 240].map((h) => `oklch(0.68 0.15 ${30 + h + change.degrees})`).join(', ')})`
}
