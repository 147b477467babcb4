/** Side of a stored source tile, in pixels. */
export const SOURCE_TILE = 512

/** What is known of a photo's pixel pyramid. Level n is half of level n − 1, rounded up. */
export interface SourceInfo {
  width: number
  height: number
  channels: 3 | 4
  depth: 8 | 16
  levels: number
}

/**
 * Where decoded photos come from. A tile's payload is its rows, each sample less the one a pixel to the left
 * (modulo its depth, little-endian), already inflated.
 */
export interface SourceReader {
  /** Throws QuillError `missing-photo` or `source-unreadable`. */
  info(asset: string): Promise<SourceInfo>
  tile(asset: string, level: number, tx: number, ty: number): Promise<Uint8Array>
  /** What is kept under the SHA-256 of its bytes: parts of planes. Throws QuillError `plane-unreadable` or `source-unreadable`. */
  blob?(name: string): Promise<Uint8Array>
  /**
   * Whether the host guards a part itself: it was named by its bytes when it was kept here, and its container would tell of damage since. Others are
   * checked against their names each time they are read.
   */
  guarded?(name: string): boolean
  /** SHA-256 in hexadecimal, where there is a faster one than core's: parts of planes are checked against their names. */
  digest?(bytes: Uint8Array): Promise<string>
  /**
   * Halved tiles of planes, by a name made of the parts they are the means of, where the host keeps them from one opening to the next: null where
   * it has none. They may be forgotten at any time.
   */
  halved?(name: string): Promise<Uint8Array | null>
  keepHalved?(name: string, bytes: Uint8Array): void
}

/** Size of a pyramid level in pixels. */
export function levelSize(info: { width: number; height: number }, level: number): { w: number; h: number } {
  return { w: Math.ceil(info.width / 2 ** level), h: Math.ceil(info.height / 2 ** level) }
}

/** How many levels a pyramid has: down to one tile of half a source tile's side. */
export function levelCount(width: number, height: number): number {
  let n = 1
  while (Math.max(width, height) / 2 ** (n - 1) > SOURCE_TILE / 2) n++
  return n
}
