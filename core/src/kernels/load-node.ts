import { readFile } from 'node:fs/promises'
import { startKernels, type Kernels } from './kernels.ts'

/** Where the kernel module lies, for the browser's bundler and for Node alike. */
export const kernelModuleUrl = new URL('../../wasm/core.wasm', import.meta.url)

/** Starts the kernels in Node (server, command line, tests). */
export async function loadKernels(maxBytes?: number): Promise<Kernels> {
  const bytes = await readFile(kernelModuleUrl)
  return startKernels(new Uint8Array(bytes), maxBytes)
}
