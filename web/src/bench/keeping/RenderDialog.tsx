import { Button, Checkbox, Group, Modal, NumberInput, Radio, SegmentedControl, Stack, Text } from '@mantine/core'
import { hasLines, type Artwork } from '@nimble-quill/core'
import { IconDownload } from '@tabler/icons-react'
import { useState } from 'react'
import { Link } from 'react-router'
import { RenderState } from '../../renders/Renders.tsx'
import { useRenderEvents } from '../../renders/use-render-events.ts'
import { sentenceOf, useAddRenderMutation, useCancelRenderMutation, useRendersQuery } from '../../store/api.ts'
import partsCss from '../../parts/parts.module.css'

interface Props {
  id: string
  artwork: Artwork
  /** Makes sure that the server has the artwork as it is. */
  save: () => Promise<boolean>
  onClose: () => void
}

/** Renders the artwork at full size: what file, how far, cancel, download. */
export function RenderDialog({ id, artwork, save, onClose }: Props) {
  const [format, setFormat] = useState<'png' | 'jpeg' | 'lines'>('png')
  const [as, setAs] = useState<'svg' | 'svg-lines'>('svg')
  const lines = format === 'lines'
  const drawn = hasLines(artwork)
  const [quality, setQuality] = useState(90)
  const [ppi, setPpi] = useState(artwork.sheet.ppi)
  const [smaller, setSmaller] = useState(false)
  const [longSide, setLongSide] = useState(Math.min(2048, Math.max(artwork.sheet.w, artwork.sheet.h)))
  const [asked, setAsked] = useState<string | null>(null)
  const [trouble, setTrouble] = useState<string | null>(null)
  const [add, adding] = useAddRenderMutation()
  const [cancel] = useCancelRenderMutation()
  const { data } = useRendersQuery()
  useRenderEvents()
  const render = data?.find((r) => r.id === asked)

  const start = async () => {
    setTrouble(null)
    if (!(await save())) {
      setTrouble('The artwork could not be saved just now, so it is not rendered. Your changes are kept in this browser; try again when the server answers.')
      return
    }
    await add({ artwork: id, format: lines ? as : format, quality, ppi, ...(smaller && !lines ? { longSide } : {}) })
      .unwrap()
      .then(
        (r) => setAsked(r.id),
        (e) => setTrouble(sentenceOf(e)),
      )
  }
  const number = (set: (v: number) => void) => (v: number | string) => typeof v === 'number' && set(v)
  return (
    <Modal opened onClose={onClose} title="Render at full size" size={420}>
      <Stack gap={12}>
        <SegmentedControl
          aria-label="File format"
          value={format}
          onChange={(v) => setFormat(v as 'png')}
          data={[
            { value: 'png', label: 'PNG, lossless' },
            { value: 'jpeg', label: 'JPEG' },
            { value: 'lines', label: 'Lines, SVG', disabled: !drawn },
          ]}
        />
        {!drawn && (
          <Text size="xs" c="var(--faint)">
            A file of lines needs a step that draws (Contours, Ink lines, Hatching), or ink.
          </Text>
        )}
        {lines && (
          <Radio.Group label="Lines are written" value={as} onChange={(v) => setAs(v as 'svg')}>
            <Stack gap={6} mt={6}>
              <Radio size="xs" value="svg" label="As shapes, as broad as they are drawn" description="For a printer, a knife, or another drawing program." />
              <Radio size="xs" value="svg-lines" label="As the lines in their middle" description="For a pen that cannot swell; each has one breadth." />
            </Stack>
          </Radio.Group>
        )}
        {lines && (
          <Text size="xs" c="var(--faint)">
            In millimetres, a group a layer. Masks, opacity and blend modes are no part of lines; papers and all that is not drawn are left out.
          </Text>
        )}
        {format === 'jpeg' && <NumberInput label="Quality" description="1 small, 100 best" min={1} max={100} value={quality} onChange={number(setQuality)} />}
        <NumberInput
          label="Resolution"
          description={lines ? 'How large the sheet is on paper' : 'Written into the file; the pixels stay the same'}
          suffix=" ppi"
          min={1}
          max={10000}
          value={ppi}
          onChange={number(setPpi)}
        />
        {!lines && <Checkbox size="xs" label="Reduce to a long side" checked={smaller} onChange={(e) => setSmaller(e.currentTarget.checked)} />}
        {smaller && !lines && <NumberInput label="Long side" suffix=" px" min={1} max={100000} value={longSide} onChange={number(setLongSide)} />}
        <Text size="sm" c="var(--faint)">
          {artwork.sheet.w} × {artwork.sheet.h} px
          {`, ${((artwork.sheet.w / ppi) * 2.54).toFixed(1)} × ${((artwork.sheet.h / ppi) * 2.54).toFixed(1)} cm in print`}
        </Text>
        {trouble && (
          <Text role="alert" size="sm" c="var(--loss)">
            {trouble}
          </Text>
        )}
        {render && (
          <div role="status" data-render-state={render.state}>
            <RenderState render={render} />
          </div>
        )}
        <Group justify="space-between">
          <Link to="/renders" className={partsCss.navlink!}>
            All renders
          </Link>
          <Group gap={8}>
            {render && (render.state === 'waiting' || render.state === 'running') && (
              <Button variant="default" onClick={() => void cancel(render.id)}>
                Cancel render
              </Button>
            )}
            {render?.state === 'done' && (
              <Button component="a" href={`/api/renders/${render.id}/file`} download leftSection={<IconDownload size={15} />}>
                Download
              </Button>
            )}
            {(!render || (render.state !== 'waiting' && render.state !== 'running')) && (
              <Button variant={render?.state === 'done' ? 'default' : 'filled'} loading={adding.isLoading} onClick={() => void start()}>
                {render ? 'Render again' : 'Render'}
              </Button>
            )}
          </Group>
        </Group>
      </Stack>
    </Modal>
  )
}
