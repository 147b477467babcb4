import { isStudyPart, studyWords, type Laying, type PlaneAddress } from '@nimble-quill/core'
import type { Doing, Hands } from './slice.ts'

/** What a stroke does, by what it acts on and what was chosen. */
export function layingOf({ on, doing, colour }: Pick<Hands, 'on' | 'doing' | 'colour'>): Laying {
  if (on?.part === 'paint') {
    if (doing === 'take') return { type: 'erase' }
    const [r, g, b] = [1, 3, 5].map((i) => BigInt(Number.parseInt(colour.slice(i, i + 2), 16) * 257))
    return { type: 'paint', colour: r! | (g! << 16n) | (b! << 32n) }
  }
  if (on?.part === 'flow') return { type: doing === 'lay' ? 'comb' : 'erase' }
  if (on && on.part !== 'mask' && doing === 'back') return { type: 'grey', value: 32768 }
  return { type: 'grey', value: doing === 'take' ? 0 : 65535 }
}

/** What a brush can do on a thing, in words. */
export function doingsOf(part: PlaneAddress['part']): { value: Doing; label: string }[] {
  if (part === 'flow')
    return [
      { value: 'lay', label: studyWords.flow.more },
      { value: 'take', label: studyWords.flow.less },
    ]
  if (isStudyPart(part))
    return [
      { value: 'lay', label: studyWords[part].more },
      { value: 'take', label: studyWords[part].less },
      { value: 'back', label: 'As found' },
    ]
  if (part === 'light')
    return [
      { value: 'lay', label: 'Dodge' },
      { value: 'take', label: 'Burn' },
      { value: 'back', label: 'Neutral' },
    ]
  return part === 'paint'
    ? [
        { value: 'lay', label: 'Lay' },
        { value: 'take', label: 'Erase' },
      ]
    : [
        { value: 'lay', label: 'Let through' },
        { value: 'take', label: 'Take away' },
      ]
}

/** How a stroke is called in the history. */
export function wordOf(part: PlaneAddress['part'], doing: Doing): string {
  if (isStudyPart(part))
    return `${studyWords[part].title}: ${doingsOf(part)
      .find((d) => d.value === doing)!
      .label.toLowerCase()}`
  if (part === 'light') return doingsOf(part).find((d) => d.value === doing)!.label
  return doing === 'take' ? 'Take away' : 'Stroke'
}
