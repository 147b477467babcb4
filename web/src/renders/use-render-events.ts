import type { Render } from '@nimble-quill/contracts'
import { useEffect } from 'react'
import { api } from '../store/api.ts'
import { useAct, type Store } from '../store/store.ts'

const ENDED: ReadonlySet<Render['state']> = new Set(['done', 'failed', 'cancelled'])

/**
 * Takes news of a render into the list. Of an end nothing more is heard, and a list that is on its way may have been read before it:
 * so the list is read once more when all that is under way has come in.
 */
export function takeNews(act: Store['dispatch'], news: Render): void {
  act(
    api.util.updateQueryData('renders', undefined, (list) => {
      const at = list.findIndex((r) => r.id === news.id)
      if (at >= 0) list[at] = news
      else list.unshift(news)
    }),
  )
  if (ENDED.has(news.state)) act(api.util.invalidateTags(['renders']))
}

/** Keeps the list of renders true while a page that shows it is open. */
export function useRenderEvents(): void {
  const act = useAct()
  useEffect(() => {
    const source = new EventSource('/api/renders/events')
    source.onmessage = (e: MessageEvent<string>) => takeNews(act, JSON.parse(e.data) as Render)
    // after a dropped line the list is read anew
    source.onopen = () => act(api.util.invalidateTags(['renders']))
    return () => source.close()
  }, [act])
}
