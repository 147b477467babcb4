/** Starts the engine worker; by itself, because only the bundler can resolve its address. */
export const startWorker = (): Worker => new Worker(new URL('./worker.ts', import.meta.url), { type: 'module', name: 'picture engine' })
