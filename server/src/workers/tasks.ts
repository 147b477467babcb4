import type { MessagePort } from 'node:worker_threads'
import type { PhotoFacts } from '../photos/decoding.ts'
import type { RenderOptions } from '../renders/rendering.ts'

/** What a picture thread can be asked to do, and what it answers. */
export interface Tasks {
  /** Cuts a photo's pyramid, and makes its small copies: path by long side. */
  cut: { ask: { path: string; out: string; scratch: string; small: Record<number, string> }; answer: PhotoFacts }
  render: {
    ask: { document: unknown; out: string; pyramids: Record<string, string>; planes: string; options: Omit<RenderOptions, 'onProgress' | 'signal'> }
    answer: { width: number; height: number }
  }
  /** `quick`: steps' words that they should be computed finer are wishes only, as under a moving hand. */
  thumbnail: {
    ask: { document: unknown; pyramids: Record<string, string>; planes: string; longSide: number; out: string; quick: boolean }
    answer: { width: number; height: number }
  }
}
export type TaskName = keyof Tasks

/** What a thread is given: `stop` becomes 1 when the task is no longer wanted; `port` is for what it tells meanwhile. */
export interface Task {
  name: TaskName
  ask: unknown
  stop: Int32Array
  port: MessagePort
}
/** What a thread tells while it works; `spoilt`: its kernels or memory failed, so that it is to be ended. */
export type FromWorker =
  { type: 'begun' } | { type: 'progress'; share: number } | { type: 'spoilt'; code: string; message: string; details: Record<string, unknown> }
export type TaskEnd = { type: 'done'; answer: unknown } | { type: 'failed'; code: string; message: string; named: boolean }
