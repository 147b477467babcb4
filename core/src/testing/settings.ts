import type { Recipe } from '../artwork/schema.ts'
import type { Kernels } from '../kernels/kernels.ts'
import type { AnyStep } from '../steps/contract.ts'
import type { ParamSpec, PictureRef } from '../steps/params.ts'
import type { MemorySources } from './memory-source.ts'
import { dice, testPicture } from './pictures.ts'

export type Setting = [name: string, params: Record<string, unknown>]

/** A value of a parameter at random: even over its slider. No length is longer than `longest` pixels. */
function dealt(spec: ParamSpec, next: () => number, longest: number): unknown {
  const between = (min: number, max: number, log: boolean) => (log ? min * (max / min) ** next() : min + (max - min) * next())
  switch (spec.type) {
    case 'length':
      return { value: between(spec.min, Math.max(spec.min, Math.min(spec.max, longest)), spec.feel === 'log'), unit: 'px' }
    case 'number':
      return between(spec.min, spec.max, spec.feel === 'log')
    case 'choice':
      return spec.options[Math.floor(next() * spec.options.length)]!.value
    case 'curve': {
      const n = 2 + Math.floor(next() * 4)
      return Array.from({ length: n }, (_, i) => [(i + next() * 0.8) / n, next()])
    }
    case 'seed':
      return Math.floor(next() * 0x7fffffff)
    case 'flag':
      return next() < 0.5
    case 'colour':
      return colourOf(next)
    case 'gradient': {
      const n = 2 + Math.floor(next() * 4)
      return Array.from({ length: n }, (_, i) => [(i + next() * 0.8) / n, colourOf(next)])
    }
    case 'palette':
      return Array.from({ length: Math.floor(next() * 6) }, () => colourOf(next))
    case 'bounds': {
      const n = Math.floor(next() * Math.min(6, spec.max))
      return Array.from({ length: n }, (_, i) => ((i + 0.1 + next() * 0.8) / n) * 255)
    }
    case 'hues':
      return Array.from({ length: 8 }, () => between(spec.min, spec.max, false))
    case 'rose':
      return Array.from({ length: 16 }, () => next())
    case 'mix':
      return Array.from({ length: spec.rows.length * spec.columns.length }, () => (next() < 0.4 ? next() * 1.2 - 0.2 : 0))
    case 'place':
      return { x: next(), y: next() }
    case 'picture':
      return otherPicture
  }
}

function colourOf(next: () => number): string {
  return `#${Math.floor(next() * 0xffffff)
    .toString(16)
    .padStart(6, '0')}`
}

/** The picture that parameters of type picture are given; `addOtherPicture` adds it to sources. */
export const otherPicture: PictureRef = { asset: 'e'.repeat(64), width: 96, height: 64 }
export const addOtherPicture = (kernels: Kernels, sources: MemorySources): Promise<void> =>
  sources.add(kernels, otherPicture.asset, { width: 96, height: 64, channels: 3, depth: 8 }, testPicture(96, 64, 3, 8))

/** The ends of a parameter. */
function ends(spec: ParamSpec, longest: number): [string, unknown][] {
  switch (spec.type) {
    case 'length':
      return [
        ['low', { value: spec.min, unit: 'px' }],
        ['high', { value: Math.max(spec.min, Math.min(spec.max, longest)), unit: 'px' }],
      ]
    case 'number':
      return [
        ['low', spec.min],
        ['high', spec.max],
      ]
    case 'choice':
      return spec.options.map((o) => [o.value, o.value])
    case 'curve':
      return [
        [
          'turned over',
          [
            [0, 1],
            [1, 0],
          ],
        ],
        [
          'steep',
          [
            [0.45, 0],
            [0.55, 1],
          ],
        ],
      ]
    case 'seed':
      return [['another', 99]]
    case 'flag':
      return [
        ['on', true],
        ['off', false],
      ]
    case 'colour':
      return [['another', '#4a90a4']]
    case 'gradient':
      return [
        [
          'turned over',
          [
            [0, '#ffffff'],
            [1, '#000000'],
          ],
        ],
      ]
    case 'palette':
      return [['two colours', ['#20242c', '#f0e6d2']]]
    case 'bounds':
      return [['one', [100]]]
    case 'hues':
      return [
        ['low', Array.from({ length: 8 }, () => spec.min)],
        ['high', Array.from({ length: 8 }, () => spec.max)],
      ]
    case 'rose':
      return [['one side', Array.from({ length: 16 }, (_, i) => (i < 8 ? 1 : 0))]]
    case 'mix':
      return [['evenly', Array.from({ length: spec.rows.length * spec.columns.length }, (_, i) => (i % spec.columns.length < 3 ? 0.33 : 0))]]
    case 'place':
      return [['another', { x: 0.3, y: 0.2 }]]
    case 'picture':
      return [['chosen', otherPicture]]
  }
}

/**
 * Defaults, sample values, both ends of every control (over the sample values), and so many settings at random.
 * @param longest pixels no length exceeds: the picture's long side, say
 */
export function settingsOf(step: AnyStep, random: number, longest: number): Setting[] {
  const sample = (step.sample ?? {}) as Record<string, unknown>
  const list: Setting[] = [['defaults', {}]]
  if (step.sample) list.push(['sample', sample])
  for (const [name, spec] of Object.entries(step.params))
    for (const [end, value] of ends(spec, longest)) list.push([`${name} ${end}`, { ...sample, [name]: value }])
  const next = dice(4711)
  if (Object.keys(step.params).length > 0) {
    for (let i = 0; i < random; i++)
      list.push([`random ${i}`, Object.fromEntries(Object.entries(step.params).map(([name, spec]) => [name, dealt(spec, next, longest)]))])
  }
  return list
}

/** Defaults, both ends of every control, and so many settings at random, of a recipe's controls. */
export function recipeSettings(recipe: Recipe, random: number): Setting[] {
  const list: Setting[] = [['defaults', {}]]
  const next = dice(1234)
  for (const { id, kind } of recipe.controls) {
    if (kind.type === 'number') list.push([`${id} low`, { [id]: kind.min }], [`${id} high`, { [id]: kind.max }])
    else if (kind.type === 'choice') for (const o of kind.options) list.push([`${id} ${o.value}`, { [id]: o.value }])
  }
  for (let i = 0; i < random; i++) {
    list.push([
      `random ${i}`,
      Object.fromEntries(
        recipe.controls.flatMap(({ id, kind }) =>
          kind.type === 'value'
            ? []
            : [[id, kind.type === 'number' ? kind.min + (kind.max - kind.min) * next() : kind.options[Math.floor(next() * kind.options.length)]!.value]],
        ),
      ),
    ])
  }
  return list
}
