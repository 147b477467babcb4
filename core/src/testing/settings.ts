import type { Recipe } from '../artwork/schema.ts'
import type { Kernels } from '../kernels/kernels.ts'
import type { AnyStep } from '../steps/contract.ts'
import { typeOf } from '../steps/params/index.ts'
import { otherPicture } from '../steps/params/picture.ts'
import type { MemorySources } from './memory-source.ts'
import { dice, testPicture } from './pictures.ts'

export { otherPicture }

export type Setting = [name: string, params: Record<string, unknown>]

/** Adds the picture that parameters of type picture are given to sources. */
export const addOtherPicture = (kernels: Kernels, sources: MemorySources): Promise<void> =>
  sources.add(kernels, otherPicture.asset, { width: 96, height: 64, channels: 3, depth: 8 }, testPicture(96, 64, 3, 8))

/**
 * Defaults, sample values, both ends of every control (over the sample values), and so many settings at random.
 * @param longest pixels no length exceeds: the picture's long side, say
 */
export function settingsOf(step: AnyStep, random: number, longest: number): Setting[] {
  const sample = (step.sample ?? {}) as Record<string, unknown>
  const list: Setting[] = [['defaults', {}]]
  if (step.sample) list.push(['sample', sample])
  for (const [name, spec] of Object.entries(step.params))
    for (const [end, value] of typeOf(spec).ends(spec, longest)) list.push([`${name} ${end}`, { ...sample, [name]: value }])
  const next = dice(4711)
  if (Object.keys(step.params).length > 0) {
    for (let i = 0; i < random; i++)
      list.push([`random ${i}`, Object.fromEntries(Object.entries(step.params).map(([name, spec]) => [name, typeOf(spec).dealt(spec, next, longest)]))])
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
