import { resolveLength, type LengthSpec } from '../steps/params/index.ts'
import type { Artwork } from './schema.ts'

/** How far a new pin reaches, % of the artwork's size; and the least and most, full-size pixels. */
export const PIN_REACH = 8
const REACH = { type: 'length', min: 1, max: 60000, default: { value: PIN_REACH, unit: '%' } } as LengthSpec

/** How far round a detail pin a picture is studied more closely, full-size pixels. */
export const pinRadius = ({ radius }: Artwork['pins'][number], { reference, sheet: { ppi } }: Pick<Artwork, 'reference' | 'sheet'>): number =>
  resolveLength(REACH, radius, { reference, ppi })
