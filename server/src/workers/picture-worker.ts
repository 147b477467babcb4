import { parentPort, workerData } from 'node:worker_threads'
import { loadArtwork, QuillError, type Signal } from '@nimble-quill/core'
import { loadKernels } from '@nimble-quill/core/node'
import { cutPyramid, PyramidFiles } from '../photos/decoding.ts'
import { newEngine, renderToFile } from '../renders/rendering.ts'
import type { FromWorker, Tasks, ToWorker } from './tasks.ts'

// A thread that decodes, renders and makes thumbnails, one task at a time. Others help it with the pixels.

const port = parentPort!
const kernels = await loadKernels(2 ** 30, (workerData as { crew: number }).crew)
const signals = new Map<number, Signal>()
const send = (m: FromWorker) => port.postMessage(m)

async function render(ask: Tasks['render']['ask'], signal: Signal, onProgress: (share: number) => void): Promise<Tasks['render']['answer']> {
  const sources = new PyramidFiles((asset) => ask.pyramids[asset] ?? null)
  const engine = newEngine(kernels, sources)
  try {
    return await renderToFile(engine, loadArtwork(ask.document), ask.out, { ...ask.options, signal, onProgress })
  } finally {
    engine.clear()
    await sources.close()
  }
}

async function thumbnail(ask: Tasks['thumbnail']['ask'], signal: Signal): Promise<Tasks['thumbnail']['answer']> {
  const artwork = loadArtwork(ask.document)
  let level = 0
  while (Math.max(artwork.sheet.w, artwork.sheet.h) / 2 ** (level + 1) >= ask.longSide) level++
  return render({ document: artwork, out: ask.out, pyramids: ask.pyramids, options: { format: 'png', level, longSide: ask.longSide } }, signal, () => undefined)
}

async function run(m: ToWorker & { type: 'task' }): Promise<void> {
  const signal: Signal = { cancelled: false }
  signals.set(m.id, signal)
  let told = 0
  const progress = (share: number) => {
    // at most 20 a second
    const now = performance.now()
    if (share < 1 && now - told < 50) return
    told = now
    send({ type: 'progress', id: m.id, share })
  }
  try {
    let answer: unknown
    if (m.name === 'cut') {
      const { path, out, scratch } = m.ask as Tasks['cut']['ask']
      answer = await cutPyramid(kernels, path, out, scratch)
    } else if (m.name === 'render') answer = await render(m.ask as Tasks['render']['ask'], signal, progress)
    else answer = await thumbnail(m.ask as Tasks['thumbnail']['ask'], signal)
    send({ type: 'done', id: m.id, answer })
  } catch (error) {
    const { code, message } = error as NodeJS.ErrnoException
    send({ type: 'failed', id: m.id, code: code ?? 'fault', message, named: error instanceof QuillError })
  } finally {
    signals.delete(m.id)
  }
}

port.on('message', (m: ToWorker) => {
  if (m.type === 'cancel') {
    const signal = signals.get(m.id)
    if (signal) signal.cancelled = true
  } else void run(m)
})
