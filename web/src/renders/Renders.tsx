import { ActionIcon, Button, Progress, Text, Tooltip } from '@mantine/core'
import type { Render } from '@nimble-quill/contracts'
import { IconDownload, IconTrash } from '@tabler/icons-react'
import { Link } from 'react-router'
import { PageHead } from '../parts/PageHead.tsx'
import { tellTrouble } from '../parts/tell.tsx'
import { sentenceOf, useCancelRenderMutation, useRemoveRenderMutation, useRendersQuery } from '../store/api.ts'
import { useRenderEvents } from './use-render-events.ts'
import partsCss from '../parts/parts.module.css'
import rendersCss from './renders.module.css'

const size = (bytes: number) => (bytes < 1e6 ? `${Math.round(bytes / 1e3)} kB` : `${(bytes / 1e6).toFixed(1)} MB`)

/** How a render stands: waiting, how far, done, or why not. */
export function RenderState({ render }: { render: Render }) {
  switch (render.state) {
    case 'waiting':
      return <Text size="sm">Waiting</Text>
    case 'running':
      return (
        <div style={{ display: 'flex', gap: 8, alignItems: 'center' }}>
          <Progress value={render.progress * 100} w={150} aria-label={`Progress of ${render.title}`} />
          <Text size="xs">{Math.round(render.progress * 100)} %</Text>
        </div>
      )
    case 'done':
      return (
        <Text size="sm">
          Done: {render.width} × {render.height} px, {size(render.bytes ?? 0)}
        </Text>
      )
    case 'failed':
      return (
        <Text size="sm" c="var(--loss)">
          {render.message}
        </Text>
      )
    case 'cancelled':
      return (
        <Text size="sm" c="var(--faint)">
          Cancelled
        </Text>
      )
  }
}

/** Full-size renders: how they stand, and their files. */
export function Renders() {
  const { data, error, refetch } = useRendersQuery(undefined, { refetchOnMountOrArgChange: true })
  const [cancel] = useCancelRenderMutation()
  const [remove] = useRemoveRenderMutation()
  useRenderEvents()
  const failed = (e: unknown) => tellTrouble(sentenceOf(e))
  return (
    <div className={partsCss.page}>
      <PageHead />
      <main className={partsCss.body}>
        <h2 style={{ marginBottom: 12 }}>Renders</h2>
        {error !== undefined && (
          <div role="alert" className={partsCss.empty} style={{ minHeight: 120 }}>
            <Text>{sentenceOf(error)}</Text>
            <Button onClick={() => void refetch()}>Try again</Button>
          </div>
        )}
        {data?.length === 0 && (
          <div className={partsCss.empty}>
            <Text>Nothing rendered yet. Open an artwork and choose Render; the full-size file will be here.</Text>
          </div>
        )}
        {data && data.length > 0 && (
          <table className={rendersCss.jobs}>
            <thead>
              <tr>
                <th>Artwork</th>
                <th>File</th>
                <th>Asked for</th>
                <th>State</th>
                <th />
              </tr>
            </thead>
            <tbody>
              {data.map((r) => (
                <tr key={r.id}>
                  <td>
                    {r.artwork ? (
                      <Link to={`/bench/${r.artwork}`} style={{ color: 'inherit' }}>
                        {r.title}
                      </Link>
                    ) : (
                      r.title
                    )}
                  </td>
                  <td>{{ png: 'PNG', jpeg: 'JPEG', svg: 'SVG', 'svg-lines': 'SVG, centre lines' }[r.format]}</td>
                  <td>{new Date(r.createdAt).toLocaleString(undefined, { dateStyle: 'medium', timeStyle: 'short' })}</td>
                  <td>
                    <RenderState render={r} />
                  </td>
                  <td style={{ textAlign: 'right', whiteSpace: 'nowrap' }}>
                    {r.state === 'done' && (
                      <Button component="a" href={`/api/renders/${r.id}/file`} download variant="default" leftSection={<IconDownload size={15} />}>
                        Download
                      </Button>
                    )}{' '}
                    {(r.state === 'waiting' || r.state === 'running') && (
                      <Button variant="default" onClick={() => void cancel(r.id).unwrap().catch(failed)}>
                        Cancel
                      </Button>
                    )}
                    {r.state !== 'waiting' && r.state !== 'running' && (
                      <Tooltip label="Delete this render and its file">
                        <ActionIcon aria-label={`Delete the render of ${r.title}`} onClick={() => void remove(r.id).unwrap().catch(failed)}>
                          <IconTrash size={16} />
                        </ActionIcon>
                      </Tooltip>
                    )}
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
        )}
      </main>
    </div>
  )
}
