import { inkBlobs, noInk, openInk, type Ink } from '@nimble-quill/core'
import { useEffect, useState } from 'react'
import { inflated, keepParts, keptPart } from '../../engine/kept-parts.ts'
import { tellTrouble } from '../../parts/tell.tsx'
import { askToStay, sendParts } from '../keeping/parts.ts'

// Ink on the page: read by the name of its root out of this browser or from the server, and kept there before an artwork names it.

/** Inks that are remembered. */
const KNOWN = 50
const inks = new Map<string, Ink>()
/** Parts that were kept or sent by this page. */
const kept = new Set<string>()

function remember(root: string, ink: Ink): void {
  inks.delete(root)
  inks.set(root, ink)
  if (inks.size > KNOWN) inks.delete(inks.keys().next().value!)
}

async function read(name: string): Promise<Uint8Array> {
  const here = await keptPart(name)
  if (here) return here
  const response = await fetch(`/api/planes/${name}`).catch(() => null)
  if (!response?.ok)
    throw new Error('The ink cannot be read just now: a part of it is neither in this browser nor on the server. The artwork is safe; try again.')
  return inflated(new Uint8Array(await response.arrayBuffer()))
}

/** Ink by the name of its root; null: none yet. */
export async function loadInk(root: string | null): Promise<Ink> {
  if (root === null) return noInk
  const known = inks.get(root)
  if (known) return known
  const ink = await openInk(root, read)
  for (const { name } of ink.chunks) kept.add(name)
  kept.add(root)
  remember(root, ink)
  return ink
}

/** Keeps ink in this browser and sends what is new of it. @returns the name of its root; null for none */
export async function keepInk(ink: Ink): Promise<string | null> {
  if (ink.chunks.length === 0) return null
  const { root, chunks } = inkBlobs(ink)
  const fresh = [root, ...chunks].filter((b) => !kept.has(b.name))
  await keepParts(fresh)
  for (const { name } of fresh) kept.add(name)
  remember(root.name, ink)
  askToStay()
  // what does not arrive is sent when the server asks for it
  void sendParts(fresh.map((b) => b.name)).catch(() => undefined)
  return root.name
}

/** The ink of a layer; null while it is read. */
export function useInk(root: string | null): Ink | null {
  const [found, setFound] = useState<{ root: string | null; ink: Ink } | null>(null)
  useEffect(() => {
    let there = true
    loadInk(root).then(
      (ink) => there && setFound({ root, ink }),
      (error: Error) => there && tellTrouble(error.message),
    )
    return () => {
      there = false
    }
  }, [root])
  return found && found.root === root ? found.ink : root === null ? noInk : (root && inks.get(root)) || null
}
