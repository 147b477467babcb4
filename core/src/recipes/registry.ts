import { QuillError } from '../base/errors.ts'
import { colouredPencilDrawing } from './coloured-pencil.ts'
import { colouredPencilPortrait } from './coloured-pencil-portrait.ts'
import { charcoalDrawing, pastelPicture } from './dry-sticks.ts'
import { flatColourPortrait } from './flat-colour-portrait.ts'
import { fourColourPanels } from './four-colour-panels.ts'
import { gappedTiles } from './gapped-tiles.ts'
import { graphite } from './graphite.ts'
import { newspaper } from './newspaper.ts'
import { knifePainting, oilFaceSaved, oilOnCanvas, oilShortWay, painterlyPrint } from './oils.ts'
import { panelSheet } from './panel-sheet.ts'
import { penAndInk } from './pen-and-ink.ts'
import { pencilDrawing } from './pencil-drawing.ts'
import { photogram } from './photogram.ts'
import { pixelMosaic } from './pixel-mosaic.ts'
import { retroPoster } from './retro-poster.ts'
import { threeLayerWatercolour } from './three-layer-watercolour.ts'
import { washAndInk } from './wash-and-ink.ts'
import { watercolourGlazes } from './watercolour-glazes.ts'
import type { Recipe } from '../artwork/schema.ts'

/** Every recipe that ships, in the order of the picker. */
export const recipes: readonly Recipe[] = [
  graphite,
  pencilDrawing,
  penAndInk,
  colouredPencilDrawing,
  colouredPencilPortrait,
  charcoalDrawing,
  pastelPicture,
  watercolourGlazes,
  washAndInk,
  threeLayerWatercolour,
  oilShortWay,
  oilFaceSaved,
  oilOnCanvas,
  knifePainting,
  painterlyPrint,
  newspaper,
  retroPoster,
  photogram,
  pixelMosaic,
  gappedTiles,
  fourColourPanels,
  panelSheet,
  flatColourPortrait,
]

/** The recipe with this id. Throws `unknown-recipe`. */
export function recipeById(id: string): Recipe {
  const recipe = recipes.find((r) => r.id === id)
  const valid = recipes.map((r) => r.id)
  if (!recipe) throw new QuillError('unknown-recipe', `There is no recipe called “${id}”. Recipes are: ${valid.join(', ')}.`, { id, valid })
  return recipe
}
