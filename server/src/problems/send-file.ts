import { open } from 'node:fs/promises'
import { pipeline } from 'node:stream/promises'
import type { Response } from 'express'
import { notFound } from './problem.ts'

const IDLE = 120_000

/**
 * Answers with a file, and closes it whatever becomes of the answer. Headers are set only once the file is there, so that nothing but success is
 * kept by caches.
 * @throws ProblemException where there is no such file
 */
export async function sendFile(response: Response, path: string, what: string, headers: Record<string, string>): Promise<void> {
  const file = await open(path, 'r').catch((error: NodeJS.ErrnoException) => {
    throw error.code === 'ENOENT' ? notFound(what) : error
  })
  try {
    const { size } = await file.stat()
    // who takes nothing of it for so long has gone
    response.setTimeout(IDLE, () => response.destroy())
    response.set({ ...headers, 'Content-Length': String(size) })
    await pipeline(file.createReadStream({ autoClose: false }), response)
  } catch (error) {
    // who left needs no answer
    if (response.destroyed || (error as NodeJS.ErrnoException).code === 'ERR_STREAM_PREMATURE_CLOSE') return
    throw error
  } finally {
    await file.close()
  }
}
