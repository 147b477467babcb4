/**
 * The sixteen blend modes of W3C Compositing and Blending Level 1, in the order of that document, which is also the
 * number by which the kernel knows them.
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
] as const

export type BlendMode = (typeof blendModes)[number]

/** Modes by plain arithmetic that documents may name and the kernels do not have yet. */
export const laterBlendModes = ['add', 'subtract', 'divide'] as const

/**
 * Modes in which two pictures that are nearly alike leave little but their difference, and make much of it: a dodge of a blurred
 * negative is all lines.
 */
export const differencing: ReadonlySet<string> = new Set(['color-dodge', 'color-burn', 'difference', 'exclusion'])

/** 'color-dodge' → 'Color dodge' */
export function blendModeTitle(mode: BlendMode | (typeof laterBlendModes)[number]): string {
  const words = mode.replace('-', ' ')
  return words[0]!.toUpperCase() + words.slice(1)
}

/** The kernel's number for a mode; −1 for one it does not have. */
export function blendModeIndex(mode: BlendMode | (typeof laterBlendModes)[number]): number {
  return (blendModes as readonly string[]).indexOf(mode)
}
