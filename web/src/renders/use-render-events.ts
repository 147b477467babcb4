import type { Render } from '@nimble-quill/contracts'
import { useEffect } from 'react'
import { api } from '../store/api.ts'
import { useAct } from '../store/store.ts'

/** Keeps the list of renders true while a page that shows it is open. */
export function useRenderEvents(): void {
  const act = useAct()
  useEffect(() => {
    const source = new EventSource('/api/renders/events')
    source.onmessage = (e: MessageEvent<string>) => {
      const news = JSON.parse(e.data) as Render
      act(
        api.util.updateQueryData('renders', undefined, (list) => {
          const at = list.findIndex((r) => r.id === news.id)
          if (at >= 0) list[at] = news
          else list.unshift(news)
        }),
      )
    }
    // after a dropped line the list is read anew
    source.onopen = () => act(api.util.invalidateTags(['renders']))
    return () => source.close()
  }, [act])
}
