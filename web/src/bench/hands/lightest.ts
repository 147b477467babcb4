/** The lightest colour of a small picture, #rrggbb. */
export function lightestOf(pixels: Uint8Array): string {
  let [best, at] = [-1, 0]
  for (let i = 0; i < pixels.length; i += 4) {
    const light = pixels[i + 3]! < 250 ? -1 : 0.2126 * pixels[i]! + 0.7152 * pixels[i + 1]! + 0.0722 * pixels[i + 2]!
    if (light > best) [best, at] = [light, i]
  }
  if (best < 0) return '#ffffff'
  return `#${[0, 1, 2].map((c) => pixels[at + c]!.toString(16).padStart(2, '0')).join('')}`
}
