import { z } from 'zod'
import type { Common, ParamType } from './type.ts'

/** Another picture: the SHA-256 of its file, and its size in pixels. */
export interface PictureRef {
  asset: string
  width: number
  height: number
}
/** Another picture the step goes by; null: none is chosen yet. */
export interface PictureSpec extends Common<PictureRef | null> {
  type: 'picture'
}

/** The picture that tests give such parameters. */
export const otherPicture: PictureRef = { asset: 'e'.repeat(64), width: 96, height: 64 }

export const pictureType: ParamType<PictureSpec, PictureRef | null> = {
  schema: () => z.strictObject({ asset: z.string().regex(/^[0-9a-f]{64}$/), width: z.number().int().min(1), height: z.number().int().min(1) }).nullable(),
  format: (_, v) => (v ? 'another picture' : 'none'),
  // a file's name: whoever reads it makes a reference of it
  read: (_, text) => text,
  write: (_, v) => (v ? v.asset : 'none'),
  range: () => 'the file of another picture',
  ends: () => [['chosen', otherPicture]],
  dealt: () => otherPicture,
}
