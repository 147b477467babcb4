import { readFile } from 'node:fs/promises'
import { Worker } from 'node:worker_threads'
import { startKernels, type Kernels } from './kernels.ts'

/** Where the kernel modules lie: for one thread, and for several on shared memory. */
const moduleUrl = (threads: number) => new URL(threads > 1 ? '../../wasm/core-shared.wasm' : '../../wasm/core.wasm', import.meta.url)
/** Built file: threads load compiled code, also under the test runner. */
const helper = new URL('../../dist/kernels/crew-node.js', import.meta.url)

/**
 * Starts the kernels in Node (server, command line, tests).
 * @param threads how many share the work of a call; more than 1 takes the shared build
 */
export async function loadKernels(maxBytes = 2 ** 30, threads = 1): Promise<Kernels> {
  const bytes = new Uint8Array(await readFile(moduleUrl(threads)))
  if (threads < 2) return startKernels(bytes, { maxBytes })
  const kernels = await startKernels(bytes, {
    maxBytes,
    threads,
    recruit: (start) => {
      const worker = new Worker(helper, { workerData: start })
      // it sleeps for ever; the process need not wait for it
      worker.unref()
      worker.on('error', () => kernels.crew?.lost())
    },
  })
  return kernels
}
