import { QuillError } from '../base/errors.ts'

// How large an artwork may be. Checked before anything else looks at a document, so that none can be made that takes the reader down.

export const MOST_LAYERS = 500
export const MOST_DEPTH = 16
export const MOST_STEPS = 2000
export const LONGEST_SIDE = 60_000
export const MOST_PIXELS = 400_000_000

const isObject = (v: unknown): v is Record<string, unknown> => typeof v === 'object' && v !== null

/** Refuses a sheet beyond the bounds. @throws QuillError `artwork-too-large` */
export function checkSheet(sheet: { w: number; h: number }): void {
  const said = `The sheet is ${sheet.w} × ${sheet.h} pixels.`
  if (sheet.w > LONGEST_SIDE || sheet.h > LONGEST_SIDE)
    throw tooLarge(`${said} A side has at most ${LONGEST_SIDE}; make the sheet smaller, or its pixels per inch fewer.`, { ...sheet })
  if (sheet.w * sheet.h > MOST_PIXELS)
    throw tooLarge(`${said} At most ${MOST_PIXELS / 1e6} megapixels can be computed; make the sheet smaller, or its pixels per inch fewer.`, { ...sheet })
}

/**
 * Refuses JSON of an artwork or a recipe beyond the bounds, whatever else is wrong with it.
 * @throws QuillError `artwork-too-large`
 */
export function checkBounds(json: Record<string, unknown>): void {
  const { sheet } = json
  if (isObject(sheet) && typeof sheet['w'] === 'number' && typeof sheet['h'] === 'number') checkSheet({ w: sheet['w'], h: sheet['h'] })
  let layers = 0
  let steps = 0
  let lists: unknown[] = [json['layers']]
  for (let depth = 0; lists.length; depth++) {
    if (depth > MOST_DEPTH) throw tooLarge(`Groups stand in each other more than ${MOST_DEPTH} deep. Nothing was changed; take some of them apart.`, { depth })
    const inner: unknown[] = []
    for (const list of lists) {
      if (!Array.isArray(list)) continue
      layers += list.length
      if (layers > MOST_LAYERS)
        throw tooLarge(`An artwork has at most ${MOST_LAYERS} layers, those in groups counted. Nothing was changed; merge some of them.`, { layers })
      for (const layer of list as unknown[]) {
        if (!isObject(layer)) continue
        if (Array.isArray(layer['chain'])) steps += layer['chain'].length
        if (steps > MOST_STEPS) throw tooLarge(`An artwork has at most ${MOST_STEPS} steps. Nothing was changed; take some out.`, { steps })
        if (isObject(layer['source']) && 'layers' in layer['source']) inner.push(layer['source']['layers'])
      }
    }
    lists = inner
  }
}

const tooLarge = (what: string, details: Record<string, unknown>) => new QuillError('artwork-too-large', what, details)
