import type { Laying } from '@nimble-quill/core'
import type { Hands } from './slice.ts'

/** What a stroke does, by what it acts on and what was chosen. */
export function layingOf({ on, doing, colour }: Pick<Hands, 'on' | 'doing' | 'colour'>): Laying {
  if (on?.part === 'paint') {
    if (doing === 'take') return { type: 'erase' }
    const [r, g, b] = [1, 3, 5].map((i) => BigInt(Number.parseInt(colour.slice(i, i + 2), 16) * 257))
    return { type: 'paint', colour: r! | (g! << 16n) | (b! << 32n) }
  }
  if (on?.part === 'light' && doing === 'back') return { type: 'grey', value: 32768 }
  return { type: 'grey', value: doing === 'take' ? 0 : 65535 }
}
