import { sha256 } from '@noble/hashes/sha2.js'
import { bytesToHex } from '@noble/hashes/utils.js'
import { QuillError } from '../errors.ts'
import { Allocator } from './allocator.ts'

/** What the WebAssembly module exports: raw pointers and strides in bytes (see core/kernels). */
export interface KernelExports {
  heapBase(): number
  copyRect(src: number, srcStride: number, dst: number, dstStride: number, rowBytes: number, h: number): void
  fillRect(dst: number, dstStride: number, w: number, h: number, pixel: bigint): void
  replicateEdges(buf: number, stride: number, w: number, h: number, x0: number, y0: number, x1: number, y1: number): void
  unpackRow(src: number, dst: number, n: number, channels: number, depth: number): void
  packRow(src: number, dst: number, n: number, channels: number, depth: number): void
  widenRow(src: number, dst: number, n: number, channels: number, depth: number): void
  to8(src: number, srcStride: number, dst: number, dstStride: number, w: number, h: number): void
  toRgb8(src: number, srcStride: number, dst: number, dstStride: number, w: number, h: number, paper: number): void
  halve(src: number, srcStride: number, w: number, h: number, dst: number, dstStride: number): void
  lut(src: number, srcStride: number, dst: number, dstStride: number, w: number, h: number, r: number, g: number, b: number): void
  greyMix(src: number, srcStride: number, dst: number, dstStride: number, w: number, h: number, wr: number, wg: number, wb: number): void
  greyLinear(
    src: number,
    srcStride: number,
    dst: number,
    dstStride: number,
    w: number,
    h: number,
    wr: number,
    wg: number,
    wb: number,
    decode: number,
    encode: number,
  ): void
  blend(
    mode: number,
    below: number,
    belowStride: number,
    above: number,
    aboveStride: number,
    dst: number,
    dstStride: number,
    w: number,
    h: number,
    opacity: number,
  ): void
  replace(
    mode: number,
    input: number,
    inputStride: number,
    result: number,
    resultStride: number,
    dst: number,
    dstStride: number,
    w: number,
    h: number,
    opacity: number,
  ): void
  gaussianDirect(src: number, srcStride: number, dst: number, dstStride: number, w: number, h: number, r: number, weights: number, scratch: number): void
  gaussianReduced(
    src: number,
    srcStride: number,
    sw: number,
    sh: number,
    f: number,
    dst: number,
    dstStride: number,
    ox: number,
    oy: number,
    w: number,
    h: number,
    r: number,
    weights: number,
    scratch: number,
  ): void
  tooth(
    src: number,
    srcStride: number,
    dst: number,
    dstStride: number,
    w: number,
    h: number,
    x0: number,
    y0: number,
    scale: number,
    pitch: number,
    strength: number,
    soft: number,
    pressure: number,
    cos: number,
    sin: number,
    length: number,
    width: number,
    seed: number,
    sub: number,
    scratch: number,
  ): void
  exp(x: number): number
  log(x: number): number
  pow(x: number, y: number): number
  sin(x: number): number
  cos(x: number): number
}

/** The kernel module with its memory. One instance a worker. */
export interface Kernels {
  readonly raw: KernelExports
  readonly memory: WebAssembly.Memory
  /** SHA-256 of the module's bytes, part of every structural key. */
  readonly hash: string
  readonly allocator: Allocator
  /** Runs `use` with scratch memory that is given back afterwards. */
  scratch<T>(bytes: number, use: (ptr: number) => T): T
  bytes(ptr: number, n: number): Uint8Array
  u16(ptr: number, n: number): Uint16Array
  f32(ptr: number, n: number): Float32Array
}

/**
 * Starts the kernel module.
 * @param module bytes of core.wasm
 * @param maxBytes the most memory it may ever hold (default 1 GiB)
 */
export async function startKernels(module: Uint8Array<ArrayBuffer>, maxBytes = 2 ** 30): Promise<Kernels> {
  const pages = Math.min(16384, Math.ceil(maxBytes / 65536))
  const memory = new WebAssembly.Memory({ initial: 16, maximum: Math.max(16, pages) })
  const { instance } = await WebAssembly.instantiate(module, {
    env: {
      memory,
      abort: () => {
        throw new QuillError('kernel-failed', 'A computation failed inside the picture engine. The artwork is safe; try the step again.')
      },
    },
  })
  const raw = instance.exports as unknown as KernelExports
  const allocator = new Allocator(memory, raw.heapBase(), pages * 65536)
  return {
    raw,
    memory,
    hash: bytesToHex(sha256(module)).slice(0, 16),
    allocator,
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
