import { readFile } from 'node:fs/promises'
import { join } from 'node:path'
import { promisify } from 'node:util'
import { inflate } from 'node:zlib'
import { tileBytes, unpackPart, unreadable } from '@nimble-quill/core'

const inflated = promisify<Buffer, { maxOutputLength: number }, Buffer>(inflate)

/** Bytes of the largest part of a plane: a tile of four channels. */
export const PLANE_PART = tileBytes(4)

/** The bytes of a part as it was sent or kept; null where it is none. */
export const inflatedPart = (deflated: Buffer): Promise<Uint8Array | null> => inflated(deflated, { maxOutputLength: PLANE_PART }).then(unpackPart, () => null)

/** The bytes of a part of a plane in a folder; null where it is not there. Throws QuillError `plane-unreadable`. */
export async function readPart(folder: string, name: string): Promise<Uint8Array | null> {
  const deflated = await readFile(join(folder, name.slice(0, 2), name)).catch((error: NodeJS.ErrnoException) => {
    if (error.code === 'ENOENT') return null
    throw error
  })
  if (!deflated) return null
  const bytes = await inflatedPart(deflated)
  if (!bytes) throw unreadable('a stored part of it is damaged')
  return bytes
}
