import type { Problem } from '@nimble-quill/contracts'
import { markSent, partsToSend } from '../../engine/kept-parts.ts'

let asked = false
/** Asks the browser, once a page, not to clear what it keeps for this site when room runs short. It may say no; what is kept is then sent as before. */
export function askToStay(): void {
  if (asked) return
  asked = true
  void navigator.storage?.persist?.().catch(() => false)
}

/** Parts sent side by side. */
const SIDE_BY_SIDE = 4

/**
 * Sends parts of what was painted to the server, as this browser keeps them.
 * @returns those that are not kept here
 * @throws Error with a sentence where the server does not take them, TypeError where it is away
 */
export async function sendParts(names: readonly string[]): Promise<string[]> {
  const parts = await partsToSend(names)
  const open = [...parts]
  const send = async () => {
    for (let part = open.pop(); part; part = open.pop()) {
      const response = await fetch(`/api/planes/${part.name}`, {
        method: 'PUT',
        headers: { 'Content-Type': 'application/octet-stream' },
        body: part.deflated,
      })
      if (!response.ok) {
        const problem = (await response.json().catch(() => null)) as Problem | null
        throw new Error(problem?.detail ?? 'The server does not take what was painted just now. It is kept in this browser and tried again.')
      }
      await markSent(part.name)
    }
  }
  await Promise.all(Array.from({ length: Math.min(SIDE_BY_SIDE, open.length) }, send))
  const here = new Set(parts.map((p) => p.name))
  return names.filter((n) => !here.has(n))
}

/** A root, its pages, their tiles: how often the server may ask for parts. */
const ASKS = 4

/** Asks the server for something about an artwork, and sends it what it misses of what was painted. Rejects as `ask` does. */
export async function withParts<T>(ask: () => Promise<T>): Promise<T> {
  for (let i = 0; ; i++) {
    try {
      return await ask()
    } catch (error) {
      const { code, missing } = ((error as { data?: Problem & { missing?: string[] } } | null)?.data ?? {}) as { code?: string; missing?: string[] }
      if (code !== 'plane-parts-missing' || !missing || i === ASKS || (await sendParts(missing)).length > 0) throw error
    }
  }
}
