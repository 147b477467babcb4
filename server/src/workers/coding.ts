import { spawn } from 'node:child_process'
import { fileURLToPath } from 'node:url'
import { QuillError, type Signal } from '@nimble-quill/core'
import sharp from 'sharp'

/** Reading a picture file into plain samples, or writing plain strips as a picture file. */
export type Coding =
  | { type: 'decode'; path: string; out: string; depth: 8 | 16 }
  | { type: 'encode'; path: string; out: string; format: 'png' | 'jpeg'; quality: number; ppi: number; longSide: number | null }

/** Pixels up to which a picture is done with at once, on the spot: a process costs more to start. */
const SMALL = 4_000_000
const LOOK_EVERY = 40

/** Built file: processes run compiled code, also under the test runner. */
const program = fileURLToPath(new URL('../../dist/workers/picture-process.js', import.meta.url))

/** Does the work here. @returns the size of the picture */
export async function codePicture(job: Coding): Promise<{ width: number; height: number }> {
  let picture = sharp(job.path, { limitInputPixels: false, sequentialRead: true })
  if (job.type === 'decode') picture = picture.autoOrient().toColourspace(job.depth === 16 ? 'rgb16' : 'srgb')
  else {
    const { longSide, format, quality, ppi } = job
    picture = picture.withMetadata({ density: ppi })
    if (longSide) picture = picture.resize(longSide, longSide, { fit: 'inside', withoutEnlargement: true, kernel: 'lanczos3' })
    picture = format === 'png' ? picture.png({ compressionLevel: 6 }) : picture.jpeg({ quality, chromaSubsampling: '4:4:4', mozjpeg: false })
  }
  const { width, height } = await picture.toFile(job.out)
  return { width, height }
}

/**
 * Does the work so that it can be stopped: a large picture in a process of its own.
 * @param pixels of the picture
 * @throws QuillError `cancelled`; what the library says
 */
export function code(job: Coding, pixels: number, signal: Signal = { cancelled: false }): Promise<{ width: number; height: number }> {
  if (pixels <= SMALL) return codePicture(job)
  return new Promise((done, fail) => {
    const child = spawn(process.execPath, [program, JSON.stringify(job)], { stdio: ['pipe', 'pipe', 'ignore'] })
    const look = setInterval(() => signal.cancelled && child.kill('SIGKILL'), LOOK_EVERY)
    let said = ''
    child.stdout.on('data', (d: Buffer) => (said += d.toString()))
    child.on('error', (error) => {
      clearInterval(look)
      fail(error)
    })
    child.on('close', () => {
      clearInterval(look)
      if (signal.cancelled) return fail(new QuillError('cancelled', 'Stopped.'))
      try {
        const answer = JSON.parse(said) as { done?: { width: number; height: number }; failed?: { code?: string; message: string } }
        if (answer.done) done(answer.done)
        else fail(Object.assign(new Error(answer.failed!.message), answer.failed!.code ? { code: answer.failed!.code } : {}))
      } catch {
        fail(new Error('the process that reads and writes pictures was ended'))
      }
    })
  })
}
