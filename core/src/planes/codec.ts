import { PLANE_TILE, tileBytes, type Channels } from './plane.ts'

// Parts as they are kept and sent: tiles with each sample less the one a pixel to the left (modulo 2¹⁶), which deflates to less than half; indexes
// as they are. Their names are those of the plain bytes.

/** Of a tile; null for other parts, which are indexes. */
const channelsOf = (bytes: Uint8Array): Channels | null => (bytes.length === tileBytes(1) ? 1 : bytes.length === tileBytes(4) ? 4 : null)

const samplesOf = (bytes: Uint8Array): Uint16Array =>
  // a view needs even addresses
  bytes.byteOffset % 2 ? new Uint16Array(bytes.slice().buffer) : new Uint16Array(bytes.buffer, bytes.byteOffset, bytes.length / 2)

/** A part as it is to be deflated; another array for tiles. */
export function packPart(bytes: Uint8Array): Uint8Array {
  const channels = channelsOf(bytes)
  if (!channels) return bytes
  const from = samplesOf(bytes)
  const to = new Uint16Array(from.length)
  const row = PLANE_TILE * channels
  for (let start = 0; start < from.length; start += row) {
    for (let i = start; i < start + channels; i++) to[i] = from[i]!
    for (let i = start + channels; i < start + row; i++) to[i] = from[i]! - from[i - channels]!
  }
  return new Uint8Array(to.buffer)
}

/** The opposite of packPart. */
export function unpackPart(bytes: Uint8Array): Uint8Array {
  const channels = channelsOf(bytes)
  if (!channels) return bytes
  const from = samplesOf(bytes)
  const to = new Uint16Array(from.length)
  const row = PLANE_TILE * channels
  for (let start = 0; start < from.length; start += row) {
    for (let i = start; i < start + channels; i++) to[i] = from[i]!
    for (let i = start + channels; i < start + row; i++) to[i] = from[i]! + to[i - channels]!
  }
  return new Uint8Array(to.buffer)
}
