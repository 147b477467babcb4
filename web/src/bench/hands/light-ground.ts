/** The lightest part of a picture that counts as its light ground. */
const SHARE = 0.25

/**
 * The light ground of a small picture, #rrggbb: the mean of the lightest quarter of what covers. Not the lightest pixel, which is a bare speck of paper
 * whiter than everything round it.
 * @param pixels RGBA, 8 bits
 */
export function lightGroundOf(pixels: Uint8Array): string {
  const found: { light: number; at: number }[] = []
  for (let i = 0; i < pixels.length; i += 4)
    if (pixels[i + 3]! >= 250) found.push({ light: 0.2126 * pixels[i]! + 0.7152 * pixels[i + 1]! + 0.0722 * pixels[i + 2]!, at: i })
  if (found.length === 0) return '#ffffff'
  found.sort((a, b) => b.light - a.light)
  const ground = found.slice(0, Math.max(1, Math.round(found.length * SHARE)))
  const mean = (c: number) => Math.round(ground.reduce((sum, { at }) => sum + pixels[at + c]!, 0) / ground.length)
  return `#${[0, 1, 2].map((c) => mean(c).toString(16).padStart(2, '0')).join('')}`
}
