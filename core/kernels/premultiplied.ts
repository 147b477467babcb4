/** A premultiplied channel of a pixel, 0…65535, rounded to the nearest. */
// @ts-ignore: decorator
@inline
export function premultiplied(p: usize, c: usize): u32 {
  const v = <u32>load<u16>(p + (c << 1))
  const a = <u32>load<u16>(p, 6)
  return c == 3 || a == 65535 ? v : <u32>((<u64>v * a + 32767) / 65535)
}
