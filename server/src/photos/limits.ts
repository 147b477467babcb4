import { LONGEST_SIDE } from '@nimble-quill/core'

/** The largest photo that is taken in. */
export const MAX_MEGAPIXELS = 150
export const MAX_BYTES = 120 * 2 ** 20
/** A photo's longest side: no sheet is larger. */
export const MAX_SIDE = LONGEST_SIDE
/** Formats that are read, by the decoder's names. */
export const READABLE = ['jpeg', 'png', 'webp', 'tiff', 'gif', 'heif'] as const
/** Those that are decoded whole, in memory, and how large they may be for it. */
export const WHOLE = ['webp', 'gif', 'heif'] as const
export const MAX_WHOLE_MEGAPIXELS = 50
