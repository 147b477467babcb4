import { Tooltip } from '@mantine/core'
import { IconLink } from '@tabler/icons-react'
import type { ReactNode } from 'react'
import tuningCss from './tuning.module.css'

export interface FrameProps {
  label: string
  help: string
  driven?: boolean
  onHelp: (text: string) => void
  field: ReactNode
  wide?: ReactNode
  labelFor?: string
}

/** One control: name, field, and below them what needs the whole width. */
export function Frame({ label, help, driven, onHelp, field, wide, labelFor }: FrameProps) {
  return (
    <div className={tuningCss.control} onPointerEnter={() => onHelp(help)} onFocus={() => onHelp(help)}>
      <label className={tuningCss.label} htmlFor={labelFor}>
        {label}
        {driven && (
          <Tooltip label="Set by a control of the recipe; typing over it sets it free">
            <span className={tuningCss.driven} role="img" aria-label="Set by the recipe">
              <IconLink size={13} />
            </span>
          </Tooltip>
        )}
      </label>
      {field}
      {wide && <div className={tuningCss.wide}>{wide}</div>}
    </div>
  )
}
