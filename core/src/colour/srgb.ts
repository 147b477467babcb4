import type { Kernels } from '../kernels/kernels.ts'

/** Linear light 0…1 of a display-encoded value 0…1 (IEC 61966-2-1, sRGB). `pow` comes from the kernel module. */
export function srgbToLinear(v: number, pow: (x: number, y: number) => number): number {
  return v <= 0.04045 ? v / 12.92 : pow((v + 0.055) / 1.055, 2.4)
}

/** Display-encoded value 0…1 of linear light 0…1 (IEC 61966-2-1, sRGB). */
export function linearToSrgb(l: number, pow: (x: number, y: number) => number): number {
  return l <= 0.0031308 ? l * 12.92 : 1.055 * pow(l, 1 / 2.4) - 0.055
}

export interface TransferTables {
  /** 65536 floats: linear light of each 16-bit code. */
  decode: number
  /** 65536 codes, indexed by the square root of linear light. */
  encode: number
}

const made = new WeakMap<Kernels, TransferTables>()

/** The two sRGB tables in kernel memory, made once an instance. */
export function transferTables(kernels: Kernels): TransferTables {
  const known = made.get(kernels)
  if (known) return known
  const { pow } = kernels.raw
  const decode = kernels.allocator.alloc(65536 * 4)
  const encode = kernels.allocator.alloc(65536 * 2)
  const d = kernels.f32(decode, 65536)
  const e = kernels.u16(encode, 65536)
  for (let i = 0; i < 65536; i++) {
    d[i] = srgbToLinear(i / 65535, pow)
    const root = i / 65535
    e[i] = Math.floor(linearToSrgb(root * root, pow) * 65535 + 0.5)
  }
  const tables = { decode, encode }
  made.set(kernels, tables)
  return tables
}
