/**
 * The sixteen blend modes of W3C Compositing and Blending Level 1, in the order of that document, and three of plain arithmetic on
 * display codes (cb what lies below, cs what lies above): add min(1, cb + cs), subtract max(0, cb − cs), divide min(1, cb / cs), where 0 / 0 is 0.
 * Their order is the number by which the kernel knows them.
 */
export const blendModes = [
  'normal',
  'multiply',
  'screen',
  'overlay',
  'darken',
  'lighten',
  'color-dodge',
  'color-burn',
  'hard-light',
  'soft-light',
  'difference',
  'exclusion',
  'hue',
  'saturation',
  'color',
  'luminosity',
  'add',
  'subtract',
  'divide',
] as const

export type BlendMode = (typeof blendModes)[number]

/**
 * Modes in which two pictures that are nearly alike leave little but their difference, and make much of it: a dodge of a blurred
 * negative is all lines.
 */
export const differencing: ReadonlySet<string> = new Set(['color-dodge', 'color-burn', 'difference', 'exclusion', 'subtract', 'divide'])

/** 'color-dodge' → 'Color dodge' */
export function blendModeTitle(mode: BlendMode): string {
  const words = mode.replace('-', ' ')
  return words[0]!.toUpperCase() + words.slice(1)
}

/** The kernel's number for a mode. */
export const blendModeIndex = (mode: BlendMode): number => blendModes.indexOf(mode)
