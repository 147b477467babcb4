/** The largest photo that is taken in. */
export const MAX_MEGAPIXELS = 150
export const MAX_BYTES = 120 * 2 ** 20
/** Formats that are read, by the decoder's names. */
export const READABLE = ['jpeg', 'png', 'webp', 'tiff', 'gif', 'heif'] as const
