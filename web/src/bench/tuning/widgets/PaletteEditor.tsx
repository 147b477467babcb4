import { ActionIcon, Button, FileButton, Tooltip } from '@mantine/core'
import { IconDownload, IconPlus, IconUpload } from '@tabler/icons-react'
import type { OnChange } from './on-change.ts'
import { useMeasured } from '../measured.ts'
import { tellTrouble } from '../../../parts/tell.tsx'
import { ColourField } from './ColourField.tsx'
import widgetsCss from './widgets.module.css'

/** Colours out of a plain list: one #rrggbb (with or without #) a line or a word; what is not one is passed over. */
export function hexList(text: string): string[] {
  return [...text.matchAll(/(?:^|[\s,;])#?([0-9a-f]{6})(?=$|[\s,;])/gim)].map((m) => `#${m[1]!.toLowerCase()}`)
}

/** A palette: colours added, changed, removed; those found in the photo can be taken over; brought in and out as a list of hex codes. */
export function PaletteEditor({
  colours,
  max,
  finds = true,
  onChange,
}: {
  colours: string[]
  max: number
  /** Whether none means: found in the photo. */
  finds?: boolean
  onChange: OnChange<string[]>
}) {
  const found = (useMeasured()?.facts as { palette?: string[] | null } | undefined)?.palette ?? []
  const shown = colours.length ? colours : found
  const save = () => {
    const url = URL.createObjectURL(new Blob([`${shown.join('\n')}\n`], { type: 'text/plain' }))
    const link = document.createElement('a')
    link.href = url
    link.download = 'palette.txt'
    link.click()
    URL.revokeObjectURL(url)
  }
  const load = async (file: File | null) => {
    if (!file) return
    const list = hexList(await file.text()).slice(0, max)
    if (list.length < 2) tellTrouble('This file holds fewer than two colours written as #rrggbb. The palette is left as it is.')
    else onChange(list)
  }
  return (
    <div className={widgetsCss.palette} role="group" aria-label="Palette">
      <div className={widgetsCss.chips}>
        {shown.map((hex, i) =>
          colours.length ? (
            <span key={i} className={widgetsCss.chip}>
              <ColourField
                small
                label={`Colour ${i + 1}`}
                value={hex}
                onChange={(v, gesture) =>
                  onChange(
                    colours.map((c, j) => (j === i ? v : c)),
                    gesture,
                  )
                }
              />
              <button aria-label={`Remove colour ${i + 1}`} onClick={() => onChange(colours.filter((_, j) => j !== i))}>
                ×
              </button>
            </span>
          ) : (
            <i key={i} style={{ background: hex }} title={hex} />
          ),
        )}
        {colours.length > 0 && colours.length < max && (
          <Tooltip label="Add a colour">
            <ActionIcon size={24} aria-label="Add a colour" onClick={() => onChange([...colours, colours.at(-1)!])}>
              <IconPlus size={14} />
            </ActionIcon>
          </Tooltip>
        )}
      </div>
      <div style={{ display: 'flex', gap: 4, alignItems: 'center' }}>
        {!finds ? null : colours.length ? (
          <Button size="compact-xs" variant="default" onClick={() => onChange([])}>
            Find them in the photo
          </Button>
        ) : (
          <Button size="compact-xs" variant="default" disabled={found.length < 2} onClick={() => onChange(found.slice(0, max))}>
            Change them by hand
          </Button>
        )}
        <span style={{ flex: 1 }} />
        <FileButton onChange={(f) => void load(f)} accept=".txt,.hex,text/plain">
          {(props) => (
            <Tooltip label="Bring in a list of hex colours">
              <ActionIcon size={26} aria-label="Bring in a list of hex colours" {...props}>
                <IconUpload size={15} />
              </ActionIcon>
            </Tooltip>
          )}
        </FileButton>
        <Tooltip label="Save as a list of hex colours">
          <ActionIcon size={26} aria-label="Save as a list of hex colours" disabled={shown.length === 0} onClick={save}>
            <IconDownload size={15} />
          </ActionIcon>
        </Tooltip>
      </div>
    </div>
  )
}
