import { workerData } from 'node:worker_threads'
import { loadArtwork, QuillError, type Signal } from '@nimble-quill/core'
import { loadKernels } from '@nimble-quill/core/node'
import { cutPyramid, PyramidFiles } from '../photos/decoding.ts'
import { smallCopies } from '../photos/small-copies.ts'
import { newEngine, renderToFile } from '../renders/rendering.ts'
import type { FromWorker, Task, TaskEnd, Tasks } from './tasks.ts'

// A thread that decodes, renders and makes thumbnails, one task at a time. Others help it with the pixels.

const kernels = await loadKernels(2 ** 30, (workerData as { crew: number }).crew)

async function render(ask: Tasks['render']['ask'], signal: Signal, onProgress: (share: number) => void): Promise<Tasks['render']['answer']> {
  const sources = new PyramidFiles((asset) => ask.pyramids[asset] ?? null, ask.planes)
  const engine = newEngine(kernels, sources)
  try {
    return await renderToFile(engine, loadArtwork(ask.document), ask.out, { ...ask.options, signal, onProgress })
  } finally {
    engine.clear()
    await sources.close()
  }
}

async function thumbnail(ask: Tasks['thumbnail']['ask'], signal: Signal): Promise<Tasks['thumbnail']['answer']> {
  const { document, out, pyramids, planes, longSide, quick } = ask
  const artwork = loadArtwork(document)
  let level = 0
  while (Math.max(artwork.sheet.w, artwork.sheet.h) / 2 ** (level + 1) >= longSide) level++
  return render({ document: artwork, out, pyramids, planes, options: { format: 'png', level, longSide, quick } }, signal, () => undefined)
}

async function cut({ path, out, scratch, small }: Tasks['cut']['ask'], signal: Signal): Promise<Tasks['cut']['answer']> {
  const facts = await cutPyramid(kernels, path, out, scratch, signal)
  await smallCopies(kernels, out, small)
  return facts
}

/** Does one task, as the pool asks; nothing where it only wants a thread. */
export default async function (task: Task | null): Promise<TaskEnd | null> {
  if (!task) return null
  const { name, ask, stop, port } = task
  const send = (m: FromWorker) => port.postMessage(m)
  const signal: Signal = {
    get cancelled() {
      return Atomics.load(stop, 0) === 1
    },
  } as Signal
  let told = 0
  const progress = (share: number) => {
    // at most 20 a second
    const now = performance.now()
    if (share < 1 && now - told < 50) return
    told = now
    send({ type: 'progress', share })
  }
  send({ type: 'begun' })
  try {
    if (signal.cancelled) throw new QuillError('cancelled', 'Stopped.')
    if (name === 'cut') return { type: 'done', answer: await cut(ask as Tasks['cut']['ask'], signal) }
    if (name === 'render') return { type: 'done', answer: await render(ask as Tasks['render']['ask'], signal, progress) }
    return { type: 'done', answer: await thumbnail(ask as Tasks['thumbnail']['ask'], signal) }
  } catch (error) {
    const { code, message } = error as NodeJS.ErrnoException
    if (code === 'kernel-failed' || code === 'out-of-memory') {
      // this thread's kernels cannot be trusted any more: the pool ends it
      send({ type: 'spoilt', code, message, details: { ...(error as Partial<QuillError>).details } })
      return new Promise(() => undefined)
    }
    return { type: 'failed', code: code ?? 'fault', message, named: error instanceof QuillError }
  } finally {
    port.unref()
  }
}
