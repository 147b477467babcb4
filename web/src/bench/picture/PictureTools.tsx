import { ActionIcon, Tooltip } from '@mantine/core'
import {
  IconArrowsHorizontal,
  IconArrowsVertical,
  IconContrast,
  IconLayoutColumns,
  IconPhoto,
  IconFlipVertical,
  IconMinus,
  IconPlus,
  IconRotateClockwise,
  IconZoomScan,
} from '@tabler/icons-react'
import { memo } from 'react'
import { setPrefs, surrounds, type Surround } from '../../store/prefs.ts'
import { useAct, useApp } from '../../store/store.ts'
import { HandBar } from '../hands/HandBar.tsx'
import { CompareMenu, type Against } from './CompareMenu.tsx'
import { turnedOn } from './viewport.ts'
import pictureCss from './picture.module.css'

/** `settled` is the share of the visible part that is the full-size result, reduced; `planning`: what the picture waits for; `asked`: what it was told of. */
export type Stage = { stage: 'waiting' | 'coarse' | 'fine'; level: number; settled: number; asked?: object; planning?: { title: string; share: number } }

export function stageText({ stage, level, settled, planning }: Stage): string {
  if (planning) return `${planning.title}, ${Math.round(planning.share * 100)} %`
  if (stage === 'waiting') return 'Computing'
  if (stage === 'coarse') return 'Quick view'
  if (level === 0) return 'Full size'
  if (settled === 1) return 'Settled: the full-size picture, reduced'
  return settled > 0 ? `Settling, ${Math.round(settled * 100)} %` : `Quick view, 1/${2 ** level}`
}

export type Wipe = 'off' | 'upright' | 'level' | 'beside'

interface ToolsProps {
  zoom: number
  held: boolean
  wipe: Wipe
  onWhole: () => void
  onZoom: (scale: number) => void
  onHold: (held: boolean) => void
  onWipe: () => void
  /** What the artwork is compared with. */
  against: Against
  onAgainst: (a: Against) => void
}

const SURROUNDS: Record<Surround, string> = { light: 'light', middle: 'middle grey', dark: 'dark' }

/** The bar over the picture. By itself, so that it is not drawn again with every tile. */
export const PictureTools = memo(function PictureTools({ zoom, held, wipe, onWhole, onZoom, onHold, onWipe, against, onAgainst }: ToolsProps) {
  const act = useAct()
  const surround = useApp((s) => s.prefs.surround)
  const { values, mirrored, turned } = useApp((s) => s.prefs)
  const toggle = (on: boolean) => ({ 'aria-pressed': on, variant: on ? 'light' : 'subtle', color: on ? 'petrol' : 'gray' })
  return (
    <div className={pictureCss.tools} role="toolbar" aria-label="Picture">
      <Tooltip label="Whole sheet (0)">
        <ActionIcon aria-label="Whole sheet" onClick={onWhole}>
          <IconZoomScan size={17} />
        </ActionIcon>
      </Tooltip>
      <Tooltip label="One picture pixel to one screen pixel (1)">
        <ActionIcon aria-label="100 %" w={44} onClick={() => onZoom(1)} style={{ fontSize: 12.5 }}>
          100 %
        </ActionIcon>
      </Tooltip>
      <Tooltip label="Zoom out (−)">
        <ActionIcon aria-label="Zoom out" onClick={() => onZoom(zoom / 1.5)}>
          <IconMinus size={16} />
        </ActionIcon>
      </Tooltip>
      <span className={pictureCss.zoom} aria-label="Zoom">
        {(zoom * 100).toFixed(zoom < 0.1 ? 1 : 0)} %
      </span>
      <Tooltip label="Zoom in (+)">
        <ActionIcon aria-label="Zoom in" onClick={() => onZoom(zoom * 1.5)}>
          <IconPlus size={16} />
        </ActionIcon>
      </Tooltip>
      <span className={pictureCss.sep} />
      <Tooltip label="Hold to see the photo (hold O)">
        <ActionIcon
          aria-label="Hold to see the photo"
          aria-pressed={held}
          onPointerDown={() => onHold(true)}
          onPointerUp={() => onHold(false)}
          onPointerLeave={() => onHold(false)}
          onKeyDown={(e) => (e.key === ' ' || e.key === 'Enter') && onHold(true)}
          onKeyUp={() => onHold(false)}
        >
          <IconPhoto size={17} />
        </ActionIcon>
      </Tooltip>
      <Tooltip label="Compare: a wipe line, upright or level; side by side; off (W)">
        <ActionIcon
          aria-label="Compare"
          aria-pressed={wipe !== 'off'}
          variant={wipe === 'off' ? 'subtle' : 'light'}
          color={wipe === 'off' ? 'gray' : 'petrol'}
          onClick={onWipe}
        >
          {wipe === 'beside' ? <IconLayoutColumns size={17} /> : wipe === 'level' ? <IconArrowsVertical size={17} /> : <IconArrowsHorizontal size={17} />}
        </ActionIcon>
      </Tooltip>
      <CompareMenu against={against} onTake={onAgainst} />
      <span className={pictureCss.sep} />
      <Tooltip label="Values only: the picture in greys (V)">
        <ActionIcon aria-label="Values only" {...toggle(values)} onClick={() => act(setPrefs({ values: !values }))}>
          <IconContrast size={17} />
        </ActionIcon>
      </Tooltip>
      <Tooltip label="Mirror the view; the artwork stays (M)">
        <ActionIcon aria-label="Mirror the view" {...toggle(mirrored)} onClick={() => act(setPrefs({ mirrored: !mirrored }))}>
          <IconFlipVertical size={17} />
        </ActionIcon>
      </Tooltip>
      <Tooltip label="Turn the view by a quarter, with shift by 15°; the artwork stays (R)">
        <ActionIcon aria-label="Turn the view" {...toggle(turned !== 0)} onClick={(e) => act(setPrefs({ turned: turnedOn(turned, e.shiftKey) }))}>
          <IconRotateClockwise size={17} />
        </ActionIcon>
      </Tooltip>
      <span className={pictureCss.sep} />
      <HandBar />
      <Tooltip label={`Surround: ${SURROUNDS[surround]}; click for the next`}>
        <ActionIcon
          aria-label={`Surround: ${SURROUNDS[surround]}`}
          onClick={() => act(setPrefs({ surround: surrounds[(surrounds.indexOf(surround) + 1) % surrounds.length]! }))}
        >
          <i className={pictureCss.surround} data-surround={surround} />
        </ActionIcon>
      </Tooltip>
    </div>
  )
})
