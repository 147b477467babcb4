import { expect, type Page, type TestInfo } from '@playwright/test'
import { join } from 'node:path'
import sharp from 'sharp'
import { set } from './by-hand.ts'
import { saved, settled } from './bench-page.ts'
import { root } from './studio.ts'

/** A place of the artwork, full-size pixels. */
export type At = readonly [x: number, y: number]

/** Where a place of the artwork is on the screen. */
export async function onScreen(page: Page): Promise<(at: At) => [number, number]> {
  const easel = (await page.locator('[data-part="easel"]').boundingBox())!
  const { scale, x, y } = await page.locator('[data-part="easel"] canvas[data-scale]').evaluate((c: HTMLCanvasElement) => ({
    scale: Number(c.dataset.scale),
    x: Number(c.dataset.x),
    y: Number(c.dataset.y),
  }))
  return ([ax, ay]) => [easel.x + x + ax * scale, easel.y + y + ay * scale]
}

/** Paints along places of the artwork by the mouse. `lifted` false: the button stays down. */
export async function stroke(page: Page, places: readonly At[], lifted = true): Promise<void> {
  const at = await onScreen(page)
  const [first, ...rest] = places.map(at)
  await page.mouse.move(...first!)
  await page.mouse.down()
  for (const [x, y] of rest) await page.mouse.move(x, y, { steps: 6 })
  if (!lifted) return
  await page.mouse.up()
  await expect(page.getByRole('button', { name: /^Undo: .* on / })).toBeVisible()
  await settled(page)
}

/** A click on the picture. */
export async function tap(page: Page, at: At): Promise<void> {
  const [x, y] = (await onScreen(page))(at)
  await page.mouse.click(x, y)
}

/** Moves to and fro over a rectangle, row by row. */
export const rubbing = (x: number, y: number, w: number, h: number, rows = 3): At[] =>
  Array.from({ length: rows * 2 }, (_, i): At => {
    const row = Math.floor(i / 2)
    return [(i + row) % 2 ? x + w : x, y + (h * row) / Math.max(1, rows - 1)]
  })

export interface BrushValues {
  breadth?: number
  cover?: number
  most?: number
  edge?: number
}

/** Sets the brush in hand; per cent, and pixels of the artwork. */
export async function brush(page: Page, { breadth, cover, most, edge }: BrushValues): Promise<void> {
  for (const [label, value] of [
    ['Breadth', breadth],
    ['Cover of a dab', cover],
    ['Cover at most', most],
    ['Edge', edge],
  ] as const)
    if (value !== undefined) await set(page, label, String(value))
}

/** Says in the segmented control what the brush does. */
export const doing = (page: Page, what: string): Promise<void> => page.locator('[data-part="tuning"] header').getByText(what, { exact: true }).click()

export interface Pixels {
  w: number
  h: number
  /** RGB, 8 bits. */
  data: Buffer
}

/** Renders the artwork at full size and gives back the downloaded pixels. `onWhite`: as they are seen where it is clear. */
export async function downloaded(page: Page, info: TestInfo, name: string, { onWhite = false } = {}): Promise<Pixels> {
  await saved(page)
  await page.getByRole('button', { name: 'Render', exact: true }).click()
  const dialog = page.getByRole('dialog', { name: 'Render at full size' })
  await dialog.getByRole('button', { name: 'Render', exact: true }).click()
  await expect(dialog.locator('[data-render-state="done"]')).toBeVisible({ timeout: 60_000 })
  const waiting = page.waitForEvent('download')
  await dialog.getByRole('link', { name: 'Download' }).click()
  const file = info.outputPath(`${name}.png`)
  await (await waiting).saveAs(file)
  await page.keyboard.press('Escape')
  const picture = onWhite ? sharp(file).flatten({ background: '#fff' }) : sharp(file)
  const { data, info: size } = await picture.removeAlpha().raw().toBuffer({ resolveWithObject: true })
  return { w: size.width, h: size.height, data }
}

/** The pixels of a file. */
export async function pixelsOf(path: string): Promise<Pixels> {
  const { data, info } = await sharp(path).removeAlpha().raw().toBuffer({ resolveWithObject: true })
  return { w: info.width, h: info.height, data }
}
/** A demo photo's own pixels. */
export const photoOf = (name: string): Promise<Pixels> => pixelsOf(join(root, 'demo/photos', name))

/** The red, green and blue of a part, each pixel. */
export function part({ w, data }: Pixels, x: number, y: number, width: number, height: number): number[][] {
  const out: number[][] = []
  for (let j = 0; j < height; j++) for (let i = 0, k = ((y + j) * w + x) * 3; i < width; i++, k += 3) out.push([data[k]!, data[k + 1]!, data[k + 2]!])
  return out
}

/** The bytes of a part, row by row: of large ones it is asked whether they are equal, as lists of pixels take seconds to compare. */
export function bytesOf({ w, data }: Pixels, x: number, y: number, width: number, height: number): Buffer {
  return Buffer.concat(Array.from({ length: height }, (_, j) => data.subarray(((y + j) * w + x) * 3, ((y + j) * w + x + width) * 3)))
}

/** The mean of all channels of some pixels, 0…255. */
export const meanOf = (pixels: readonly (readonly number[])[]): number => pixels.flat().reduce((a, b) => a + b, 0) / pixels.length / 3

/** How far two lots of pixels are apart, mean of all channels. */
export const apart = (a: readonly (readonly number[])[], b: readonly (readonly number[])[]): number =>
  a.reduce((sum, p, i) => sum + p.reduce((s, v, c) => s + Math.abs(v - b[i]![c]!), 0), 0) / a.length / 3

/** A handle that lies over the picture. */
export const handle = (page: Page, name: RegExp) => page.locator('[data-part="easel"]').getByRole('button', { name })

/** Pulls a handle by artwork pixels. */
export async function pull(page: Page, name: RegExp, dx: number, dy: number): Promise<void> {
  const box = (await handle(page, name).boundingBox())!
  const at = await onScreen(page)
  const [[ox, oy], [tx, ty]] = [at([0, 0]), at([dx, dy])]
  const [x, y] = [box.x + box.width / 2, box.y + box.height / 2]
  await page.mouse.move(x, y)
  await page.mouse.down()
  await page.mouse.move(x + (tx - ox) / 2, y + (ty - oy) / 2, { steps: 4 })
  await page.mouse.move(x + tx - ox, y + ty - oy, { steps: 4 })
  await page.mouse.up()
}
