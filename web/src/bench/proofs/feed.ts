import type { Artwork } from '@nimble-quill/core'
import { createContext, useContext } from 'react'

/**
 * The artwork on the bench for those who follow it without being drawn again: small pictures, of which there are dozens, ask for
 * themselves anew when it changes.
 */
export class Feed {
  artwork: Artwork
  private readonly listeners = new Set<() => void>()

  constructor(artwork: Artwork) {
    this.artwork = artwork
  }

  set(artwork: Artwork): void {
    if (artwork === this.artwork) return
    this.artwork = artwork
    for (const l of this.listeners) l()
  }

  /** Answers how to stop listening. */
  listen(listener: () => void): () => void {
    this.listeners.add(listener)
    return () => this.listeners.delete(listener)
  }
}

export const FeedContext = createContext<Feed | null>(null)

export function useFeed(): Feed {
  const feed = useContext(FeedContext)
  if (!feed) throw new Error('no artwork feed here')
  return feed
}
