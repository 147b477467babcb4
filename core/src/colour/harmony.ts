import { hexOfRgb, rgbOfOklab, type Triple } from './oklab.ts'

// Sets of colours that go together, in OKLCH (Ottosson 2020; CSS Color 4, section 9): hues at simple distances, lightness from dark to light.

/** How far hues stand from each other, degrees. Common practice of colour teaching. */
export const harmonies = {
  near: { title: 'Near each other', hues: [0, 30, 60] },
  opposite: { title: 'Opposite', hues: [0, 180] },
  thirds: { title: 'In thirds', hues: [0, 120, 240] },
  split: { title: 'Beside the opposite', hues: [0, 150, 210] },
  quarters: { title: 'In quarters', hues: [0, 90, 180, 270] },
} as const
export type HarmonyId = keyof typeof harmonies

/** Lightness of the darkest and of the lightest colour. */
const [DARK, LIGHT] = [0.24, 0.93]
/** Chroma in the middle of the scale. */
const CHROMA = 0.19

/** #rrggbb of an OKLCH colour; what sRGB has not is made paler, its lightness and hue kept. @param l 0…1; c 0…0.4; h degrees */
export function hexOfOklch(l: number, c: number, h: number): string {
  const at = (chroma: number) => rgbOfOklab([l, chroma * Math.cos((h * Math.PI) / 180), chroma * Math.sin((h * Math.PI) / 180)], Math.pow)
  const inside = (rgb: Triple) => rgb.every((v) => v >= -1e-6 && v <= 1 + 1e-6)
  let [low, high] = [0, c]
  if (inside(at(c))) low = c
  else
    for (let i = 0; i < 24; i++) {
      const mid = (low + high) / 2
      if (inside(at(mid))) low = mid
      else high = mid
    }
  return hexOfRgb(at(low))
}

/**
 * A palette of a harmony, dark to light.
 * @param first hue it begins with, degrees
 * @param count colours, 2 … 8
 */
export function harmony(id: HarmonyId, first: number, count: number): string[] {
  const { hues } = harmonies[id]
  return Array.from({ length: count }, (_, i) => {
    const t = count > 1 ? i / (count - 1) : 0
    // strongest in the middle: the darkest is ink, the lightest paper
    const chroma = CHROMA * (0.45 + 0.55 * Math.sin(Math.PI * (0.12 + 0.76 * t)))
    return hexOfOklch(DARK + (LIGHT - DARK) * t, chroma, first + hues[i % hues.length]!)
  })
}
