/**
 * The front of an uncompressed 8-bit TIFF 6.0 in strips, little-endian: the pixel rows follow it as they are.
 * Source: TIFF Revision 6.0 (1992), sections 2, 6 and 18.
 * @param channels 3 (RGB) or 4 (RGB and straight alpha)
 * @throws RangeError when the file would pass 4 GiB
 */
export function tiffHeader(width: number, height: number, channels: 3 | 4, ppi: number): Uint8Array {
  const rowsPerStrip = 64
  const strips = Math.ceil(height / rowsPerStrip)
  const rowBytes = width * channels
  const entries = channels === 4 ? 14 : 13
  const ifd = 8
  const extra = ifd + 2 + entries * 12 + 4
  const bits = extra
  const res = bits + channels * 2
  const offsets = res + 8
  const counts = offsets + strips * 4
  const start = Math.ceil((counts + strips * 4) / 64) * 64
  if (start + rowBytes * height > 0xffffffff) throw new RangeError('the picture is too large for one TIFF file')
  const out = new Uint8Array(start)
  const view = new DataView(out.buffer)
  out.set([0x49, 0x49, 42, 0])
  view.setUint32(4, ifd, true)
  view.setUint16(ifd, entries, true)
  let at = ifd + 2
  const entry = (tag: number, type: 3 | 4 | 5, count: number, value: number) => {
    view.setUint16(at, tag, true)
    view.setUint16(at + 2, type, true)
    view.setUint32(at + 4, count, true)
    if (type === 3 && count === 1) view.setUint16(at + 8, value, true)
    else view.setUint32(at + 8, value, true)
    at += 12
  }
  entry(256, 4, 1, width)
  entry(257, 4, 1, height)
  entry(258, 3, channels, bits)
  entry(259, 3, 1, 1)
  entry(262, 3, 1, 2)
  entry(273, 4, strips, strips === 1 ? start : offsets)
  entry(277, 3, 1, channels)
  entry(278, 4, 1, rowsPerStrip)
  entry(279, 4, strips, strips === 1 ? rowBytes * height : counts)
  entry(282, 5, 1, res)
  entry(283, 5, 1, res)
  entry(284, 3, 1, 1)
  entry(296, 3, 1, 2)
  if (channels === 4) entry(338, 3, 1, 2)
  for (let c = 0; c < channels; c++) view.setUint16(bits + c * 2, 8, true)
  view.setUint32(res, Math.round(ppi * 1000), true)
  view.setUint32(res + 4, 1000, true)
  for (let s = 0; s < strips; s++) {
    view.setUint32(offsets + s * 4, start + s * rowsPerStrip * rowBytes, true)
    view.setUint32(counts + s * 4, Math.min(rowsPerStrip, height - s * rowsPerStrip) * rowBytes, true)
  }
  return out
}
