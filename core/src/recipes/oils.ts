import { newLayer, newStep } from '../artwork/layers.ts'
import { newMask } from '../artwork/planes.ts'
import { RECIPE_FORMAT, RECIPE_VERSION, type Recipe } from '../artwork/schema.ts'
import { along, by, dial, pick } from './parts.ts'

const percent = (value: number) => ({ value, unit: '%' })
const head = { format: RECIPE_FORMAT, version: RECIPE_VERSION, edition: 1, retouch: null } as const

const breadth = (layer: string, value = 45) =>
  dial('brush', 'Brush', 'How broad the brush is.', ['Small', 'Broad'], value, [
    along(
      layer,
      'oil',
      'width',
      [
        [0, 0.5],
        [45, 1.5],
        [100, 5],
      ],
      '%',
    ),
  ])
const body = (layer: string, value = 50) =>
  dial('body', 'Body', 'How thickly the paint stands.', ['Thin', 'Thick'], value, [
    along(layer, 'oil', 'body', [
      [0, 0],
      [100, 1],
    ]),
  ])
const edges = (layer: string) =>
  dial('edges', 'Edges', 'Lost edges run into each other, found ones end strokes.', ['Lost', 'Found'], 60, [
    along(layer, 'oil', 'edges', [
      [0, 0],
      [100, 1],
    ]),
  ])

/** J5: the colour muted a little, and oil over it. */
export const oilShortWay: Recipe = {
  ...head,
  id: 'oil-short-way',
  title: 'Oil, the short way',
  help: 'Colour muted a little, and painted in oil with one brush: thin darks, thick lights, ridges under the lamp.',
  needs: { busy: 'daubs will muddle it', few: 'hairs will look broad' },
  layers: [
    newLayer(
      'Oil',
      { type: 'open-photo' },
      [newStep('vibrance', { vibrance: -0.2, saturation: -0.03 }, 'mute'), newStep('flowing-oil', { body: 0.45 }, 'oil')],
      'oil',
    ),
  ],
  controls: [
    pick('kind', 'Kind of brush', 'What the paint is laid with.', { flat: 'Flat', filbert: 'Filbert', round: 'Round' }, [
      by('oil', 'oil', 'brush', { flat: 'flat', filbert: 'filbert', round: 'round' }),
    ]),
    breadth('oil'),
    body('oil', 45),
    edges('oil'),
    dial('colour', 'Colour', 'Muted, or as full as the photo and fuller.', ['Muted', 'Full'], 40, [
      along('oil', 'mute', 'vibrance', [
        [0, -0.6],
        [40, -0.2],
        [100, 0.4],
      ]),
    ]),
  ],
}

/** J6: thin oil, crisper and calmer, with a mask to let the photo through where paint muddled it; a tint and a vignette over it. */
export const oilFaceSaved: Recipe = {
  ...head,
  id: 'oil-face-saved',
  title: 'Oil with the face saved',
  help: 'Thin oil over the photo: paint black on its mask, softly, where a face is to come back. A tint and a vignette over all.',
  needs: { busy: 'daubs will muddle it', few: 'hairs will look broad' },
  layers: [
    newLayer('Photo', { type: 'open-photo' }, [], 'photo'),
    {
      ...newLayer(
        'Oil',
        { type: 'open-photo' },
        [
          newStep('flowing-oil', { body: 0.25, width: percent(1.1), gloss: 0.1 }, 'oil'),
          newStep('unsharp-mask', { radius: percent(0.2), amount: 0.6, threshold: 6 }, 'crisp'),
          newStep('edge-smooth', { reach: percent(0.2) }, 'calm'),
        ],
        'oil',
      ),
      mask: newMask('full'),
    },
    { ...newLayer('Tint', { type: 'below' }, [newStep('gradient-map', {}, 'tint')], 'tint'), blend: 'overlay', opacity: 0.3 },
    newLayer('Vignette', { type: 'below' }, [newStep('vignette', {}, 'vignette')], 'vignette'),
  ],
  controls: [
    breadth('oil', 32),
    body('oil', 25),
    dial('tint', 'Tint', 'How much the colours lean to those of a gradient.', ['None', 'Strong'], 30, [
      along('tint', null, 'opacity', [
        [0, 0],
        [30, 0.3],
        [100, 0.8],
      ]),
    ]),
    dial('vignette', 'Vignette', 'How much the corners fall back.', ['None', 'Dark'], 45, [
      along('vignette', null, 'opacity', [
        [0, 0],
        [100, 1],
      ]),
    ]),
  ],
}

/** J7: the photo smeared along its forms, hard light over itself; that in clean daubs by overlay; canvas over all. */
export const oilOnCanvas: Recipe = {
  ...head,
  edition: 3,
  id: 'oil-on-canvas',
  title: 'Oil on canvas',
  help: 'Wet colour dragged along the forms, strengthened by itself, pulled together into daubs, and the weave of a canvas over all; features are spared.',
  needs: { soft: 'there will be no forms to drag along', noisy: 'it will be dragged into streaks' },
  layers: [
    newLayer('Photo', { type: 'open-photo' }, [], 'photo'),
    newLayer(
      'Smeared',
      { type: 'open-photo' },
      [
        // what is finer than a brush is told of by masses, outside what matters
        newStep('masses', { breadth: 0.35, strength: 0.8, details: 0.7 }, 'calm'),
        newStep('smear', { drag: percent(1.8), breadth: percent(2.4), hairs: percent(0.28), mixing: 0.25, marks: 0.35, spared: 0.6 }, 'smear'),
        newStep('unsharp-mask', { radius: percent(0.12), amount: 0.7, threshold: 2 }, 'crisp'),
      ],
      'smeared',
    ),
    { ...newLayer('Over itself', { type: 'below' }, [], 'over'), blend: 'hard-light', opacity: 0.4 },
    {
      ...newLayer('Daubs', { type: 'below' }, [newStep('oil-daub', { reach: percent(0.45), tones: 24 }, 'daub')], 'daubs'),
      blend: 'overlay',
      opacity: 0.45,
    },
    {
      ...newLayer(
        'Canvas',
        { type: 'fill', colour: '#ffffff', alpha: 1 },
        [newStep('surface-relief', { kind: 'canvas', pitch: percent(0.2), depth: 0.055 }, 'weave')],
        'canvas',
      ),
      blend: 'multiply',
    },
  ],
  controls: [
    dial('drag', 'Drag', 'How far the colour is dragged along the forms.', ['Short', 'Long'], 50, [
      along(
        'smeared',
        'smear',
        'drag',
        [
          [0, 0.5],
          [50, 1.8],
          [100, 4],
        ],
        '%',
      ),
    ]),
    dial('features', 'Features', 'How much of what is fine is spared.', ['Smeared', 'Spared'], 60, [
      along('smeared', 'smear', 'spared', [
        [0, 0],
        [100, 1],
      ]),
    ]),
    dial('daubs', 'Daubs', 'How large the daubs are that pull the colour together.', ['Small', 'Large'], 45, [
      along(
        'daubs',
        'daub',
        'reach',
        [
          [0, 0.15],
          [45, 0.45],
          [100, 1.2],
        ],
        '%',
      ),
    ]),
    dial('strength', 'Strength', 'How strongly light and colour are driven.', ['Quiet', 'Strong'], 45, [
      along('over', null, 'opacity', [
        [0, 0],
        [45, 0.4],
        [100, 1],
      ]),
      along('daubs', null, 'opacity', [
        [0, 0.1],
        [45, 0.45],
        [100, 0.9],
      ]),
    ]),
    dial('canvas', 'Canvas', 'How much of the weave is seen.', ['None', 'Coarse'], 40, [
      along('canvas', 'weave', 'depth', [
        [0, 0],
        [40, 0.055],
        [100, 0.35],
      ]),
    ]),
  ],
}

/** Paint laid and scraped with a knife. */
export const knifePainting: Recipe = {
  ...head,
  id: 'knife-painting',
  title: 'Knife',
  help: 'Paint laid with a knife in flat facets, scraped at its rims, thick in the lights.',
  needs: { busy: 'facets will muddle it', flat: 'facets will hardly part', alike: 'the subject will sink into the ground' },
  layers: [
    newLayer(
      'Knife',
      { type: 'open-photo' },
      [
        newStep('vibrance', { vibrance: 0.2 }, 'colour'),
        newStep('brightness-contrast', { contrast: 0.12 }, 'bold'),
        newStep('flowing-oil', { brush: 'knife', width: percent(1.5), body: 0.6, temperature: 0.6, gloss: 0.35, weave: { value: 0, unit: 'px' } }, 'oil'),
      ],
      'knife',
    ),
  ],
  controls: [
    dial('brush', 'Knife', 'How broad the knife is.', ['Small', 'Broad'], 45, [
      along(
        'knife',
        'oil',
        'width',
        [
          [0, 0.6],
          [45, 1.5],
          [100, 4.5],
        ],
        '%',
      ),
    ]),
    body('knife', 60),
    dial('colour', 'Colour', 'How much neighbouring facets differ, warm against cool.', ['Even', 'Broken'], 55, [
      along('knife', 'oil', 'temperature', [
        [0, 0],
        [55, 0.6],
        [100, 1],
      ]),
      along('knife', 'colour', 'vibrance', [
        [0, 0],
        [55, 0.2],
        [100, 0.5],
      ]),
    ]),
    edges('knife'),
  ],
}

/** J8: broad brushwork, over itself once more, levels drawn in, and more colour for a printer and a paper that dull it. */
export const painterlyPrint: Recipe = {
  ...head,
  edition: 2,
  id: 'painterly-print',
  title: 'Painterly print',
  help: 'Broad brushwork, painted over once more to loosen it, with its blacks, whites and colours set for watercolour paper from a printer.',
  needs: { flat: 'it will stay dull' },
  layers: [
    newLayer(
      'Brushwork',
      { type: 'open-photo' },
      [
        newStep('broad-brush', { largest: percent(4), smallest: percent(0.35), care: 0.7, body: 0 }, 'first'),
        newStep('broad-brush', { largest: percent(5), smallest: percent(0.4), care: 0.8, loose: 0.2, body: 0.3, seed: 12 }, 'again'),
      ],
      'brushwork',
    ),
    newLayer(
      'For print',
      { type: 'below' },
      [newStep('levels', { black: 12, white: 244 }, 'levels'), newStep('vibrance', { saturation: 0.15 }, 'colour')],
      'print',
    ),
  ],
  controls: [
    dial('brush', 'Brush', 'How broad the brushes are.', ['Fine', 'Broad'], 45, [
      along(
        'brushwork',
        'first',
        'largest',
        [
          [0, 1.5],
          [45, 4],
          [100, 12],
        ],
        '%',
      ),
      along(
        'brushwork',
        'again',
        'largest',
        [
          [0, 2],
          [45, 5],
          [100, 14],
        ],
        '%',
      ),
    ]),
    dial('loose', 'Looseness', 'How much is left to broad strokes, and how far they stray.', ['Careful', 'Loose'], 50, [
      along('brushwork', 'again', 'care', [
        [0, 1],
        [50, 0.8],
        [100, 0.2],
      ]),
      along('brushwork', 'again', 'loose', [
        [0, 0],
        [50, 0.2],
        [100, 0.8],
      ]),
    ]),
    dial('contrast', 'Contrast', 'How far black and white points are drawn in.', ['Soft', 'Strong'], 40, [
      along('print', 'levels', 'black', [
        [0, 0],
        [40, 12],
        [100, 40],
      ]),
      along('print', 'levels', 'white', [
        [0, 255],
        [40, 244],
        [100, 215],
      ]),
    ]),
    dial('colour', 'Colour', 'How much more colour it is given, since printer and paper dull it.', ['As painted', 'Full'], 45, [
      along('print', 'colour', 'saturation', [
        [0, 0],
        [45, 0.15],
        [100, 0.5],
      ]),
    ]),
  ],
}
