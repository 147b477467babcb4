import { newLayer, newStep } from '../artwork/layers.ts'
import { RECIPE_FORMAT, RECIPE_VERSION, type Recipe } from '../artwork/schema.ts'

const photo = newLayer('Black-and-white', { type: 'open-photo' }, [newStep('black-white', {}, 'mix'), newStep('gaussian-blur', { sigma: { value: 0.05, unit: '%' } }, 'quiet')], 'base')
const lines = {
  ...newLayer('Pencil', { type: 'live', layer: 'base' }, [newStep('invert', {}, 'invert'), newStep('gaussian-blur', { sigma: { value: 0.6, unit: '%' } }, 'width')], 'lines'),
  blend: 'color-dodge' as const,
}
const values = newLayer('Values', { type: 'below' }, [newStep('levels', {}, 'dark'), newStep('paper-tooth', {}, 'tooth')], 'values')

/** J1: a pencil drawing by colour dodge of a blurred negative, its values brought back, on toothed paper. */
export const graphite: Recipe = {
  format: RECIPE_FORMAT,
  version: RECIPE_VERSION,
  id: 'graphite',
  title: 'Graphite',
  help: 'A pencil drawing: fine lines or soft tone, on paper with a tooth.',
  layers: [photo, lines, values],
  controls: [],
}
