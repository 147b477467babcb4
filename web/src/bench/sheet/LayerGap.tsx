import { useDroppable } from '@dnd-kit/core'
import sheetCss from './sheet.module.css'

/** Between two rows: takes dragged layers into a list at a place. */
export function LayerGap({ group, index, depth }: { group: string | null; index: number; depth: number }) {
  const drop = useDroppable({ id: `layers:${group ?? ''}:${index}`, data: { kind: 'layers', group, index } })
  return (
    <div ref={drop.setNodeRef} className={sheetCss.layerGap} data-part="layer-gap" data-over={drop.isOver || undefined} style={{ marginLeft: 14 * depth }} />
  )
}
