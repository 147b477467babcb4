import { QuillError } from '../base/errors.ts'
import { Allocator } from './allocator.ts'
import { calls, KERNEL_HASH, type KernelExports } from './calls.ts'
import { bandsFor, CONTROL_BYTES, Crew, type CrewStart } from './crew.ts'

export type { KernelExports } from './calls.ts'

/** The kernel module with its memory. One instance a worker. */
export interface Kernels {
  /** The kernels; each is told its own arguments but the scratch memory. */
  readonly raw: KernelExports
  readonly memory: WebAssembly.Memory
  /** Hash of the kernels' sources, part of every structural key. */
  readonly hash: string
  readonly allocator: Allocator
  /** The threads that share long calls; null where memory cannot be shared. */
  readonly crew: Crew | null
  /** Runs `use` with scratch memory that is given back afterwards. */
  scratch<T>(bytes: number, use: (ptr: number) => T): T
  bytes(ptr: number, n: number): Uint8Array
  u16(ptr: number, n: number): Uint16Array
  f32(ptr: number, n: number): Float32Array
}

export interface KernelOptions {
  /** The most memory it may ever hold (default 1 GiB). */
  maxBytes?: number
  /**
   * The module is the build for shared memory, and threads may help: called once with what a helper is to be started with.
   * Calls go on alone until it is there.
   */
  recruit?: (start: CrewStart) => void
  /** Threads that may work together, the caller's included (default 2 where there is `recruit`). */
  threads?: number
}

/** Starts the kernel module out of its bytes. */
export async function startKernels(source: Uint8Array<ArrayBuffer>, options: KernelOptions = {}): Promise<Kernels> {
  const { recruit } = options
  const threads = recruit ? (options.threads ?? 2) : 1
  const pages = Math.max(16, Math.min(16384, Math.ceil((options.maxBytes ?? 2 ** 30) / 65536)))
  const memory = new WebAssembly.Memory({ initial: 16, maximum: pages, shared: recruit !== undefined })
  const module = await WebAssembly.compile(source)
  const instance = await WebAssembly.instantiate(module, {
    env: {
      memory,
      abort: () => {
        throw new QuillError('kernel-failed', 'A computation failed inside the picture engine. The artwork is safe; try the step again.')
      },
    },
  })
  const exports = instance.exports as unknown as KernelExports
  const allocator = new Allocator(memory, exports.heapBase(), pages * 65536)
  let crew: Crew | null = null
  if (recruit) {
    const control = allocator.alloc(CONTROL_BYTES)
    crew = new Crew(memory, control, threads)
    for (let thread = 1; thread < threads; thread++) recruit({ module, memory, control, thread })
  }
  return {
    raw: calling(exports, allocator, crew),
    memory,
    hash: KERNEL_HASH,
    allocator,
    crew,
    scratch(bytes, use) {
      const ptr = allocator.alloc(bytes)
      try {
        return use(ptr)
      } finally {
        allocator.free(ptr)
      }
    },
    bytes: (ptr, n) => new Uint8Array(memory.buffer, ptr, n),
    u16: (ptr, n) => new Uint16Array(memory.buffer, ptr, n),
    f32: (ptr, n) => new Float32Array(memory.buffer, ptr, n),
  }
}

/** The exports with scratch memory given and long calls shared out among the crew. */
function calling(exports: KernelExports, allocator: Allocator, crew: Crew | null): KernelExports {
  const raw: Record<string, (...a: never[]) => unknown> = {}
  calls.forEach(({ name, rows, scratch }, index) => {
    const fn = exports[name as keyof KernelExports] as (...a: (number | bigint)[]) => unknown
    if (!scratch && !(rows && crew)) {
      raw[name] = fn
      return
    }
    raw[name] = (...a: number[]) => {
      // while it rests the lead works alone, on however large a call: helpers do not know of its rest
      const threads = crew?.threads ?? 1
      const bands = rows && threads > 1 ? bandsFor(rows, a, threads) : 1
      const each = scratch ? Math.ceil((scratch(a) + 64) / 64) * 64 : 0
      if (bands === 1) {
        if (!each) return fn(...a)
        const at = allocator.alloc(each)
        try {
          return fn(...a, at)
        } finally {
          allocator.free(at)
        }
      }
      const at = each ? allocator.alloc(each * crew!.seats) : 0
      try {
        crew!.run(index, fn as (...a: number[]) => void, rows!, a, bands, at, each)
      } finally {
        if (at) allocator.free(at)
      }
      return undefined
    }
  })
  return raw as unknown as KernelExports
}
