import { z } from 'zod'
import type { Common, ParamType } from './type.ts'

export interface ChoiceSpec<V extends string = string> extends Common<V> {
  type: 'choice'
  options: readonly { value: V; title: string }[]
}

export const choiceType: ParamType<ChoiceSpec, string> = {
  schema: ({ options }) => z.enum(options.map((o) => o.value) as [string, ...string[]]),
  format: ({ options }, v) => options.find((o) => o.value === v)?.title ?? String(v),
  read: (_, text) => text,
  write: (_, v) => v,
  range: ({ options }) => `one of ${options.map((o) => o.value).join(', ')}`,
  ends: ({ options }) => options.map((o) => [o.value, o.value]),
  dealt: ({ options }, next) => options[Math.floor(next() * options.length)]!.value,
}
