import type { PhotoFacts } from '../photos/decoding.ts'
import type { RenderOptions } from '../renders/rendering.ts'

/** What a picture thread can be asked to do, and what it answers. */
export interface Tasks {
  cut: { ask: { path: string; out: string; scratch: string }; answer: PhotoFacts }
  render: {
    ask: { document: unknown; out: string; pyramids: Record<string, string>; options: Omit<RenderOptions, 'onProgress' | 'signal'> }
    answer: { width: number; height: number }
  }
  thumbnail: { ask: { document: unknown; pyramids: Record<string, string>; longSide: number; out: string }; answer: { width: number; height: number } }
}
export type TaskName = keyof Tasks

export type ToWorker = { type: 'task'; id: number; name: TaskName; ask: unknown } | { type: 'cancel'; id: number }
export type FromWorker =
  | { type: 'progress'; id: number; share: number }
  | { type: 'done'; id: number; answer: unknown }
  | { type: 'failed'; id: number; code: string; message: string; named: boolean }
