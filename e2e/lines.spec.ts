import { readFileSync } from 'node:fs'
import sharp from 'sharp'
import { difference, proof, saved, settled, shown } from './bench-page.ts'
import { addStep, begin, choose, reopened, set } from './by-hand.ts'
import { brush, downloaded, handle, meanOf, part, pull, stroke, type Pixels } from './brush.ts'
import { expect, test } from './studio.ts'

// Techniques that are laid out before they are drawn, on the bench.

test('a portrait is hatched: tools, an ink that only draws, and a plan laid while the view moves', async ({ enter }, info) => {
  test.setTimeout(300_000)
  const page = await enter()
  await begin(page, 'The lantern keeper')
  await addStep(page, 'Hatching')
  await settled(page)
  const lead = await shown(page)
  await choose(page, 'Tool', 'Pen')
  await settled(page)
  const pen = await shown(page)
  expect(difference(lead, pen)).toBeGreaterThan(2)

  // a pen covers or it does not: hardly a pixel lies between, rims of strokes aside
  const drawn = await downloaded(page, info, 'hatched')
  let [between, inked] = [0, 0]
  for (let i = 0; i < drawn.data.length; i += 3) {
    if (drawn.data[i]! > 90 && drawn.data[i]! < 190) between++
    if (drawn.data[i]! < 90) inked++
  }
  expect(inked / (drawn.data.length / 3)).toBeGreaterThan(0.1)
  expect(between).toBeLessThan(inked)

  // while strokes are laid anew further apart, the view moves on; what settles is what a fresh page shows
  await set(page, 'Spacing', '0.6')
  const easel = (await page.locator('[data-part="easel"]').boundingBox())!
  await page.mouse.move(easel.x + easel.width / 2, easel.y + easel.height / 2)
  for (let i = 0; i < 4; i++) await page.mouse.wheel(0, -120)
  await settled(page)
  const near = await shown(page)
  expect(difference(pen, near)).toBeGreaterThan(2)
  await page.keyboard.press('Control+z')
  await settled(page)
  await page.keyboard.press('Control+Shift+z')
  await settled(page)
  expect(difference(near, await shown(page))).toBeLessThan(0.001)

  // the face is lighter than the coat, as it was
  const wide = await downloaded(page, info, 'wide')
  expect(meanOf(part(wide, 640, 860, 120, 100))).toBeGreaterThan(meanOf(part(wide, 1300, 1750, 120, 100)) + 40)
})

test('a mark too small for the sheet says so, and so many strokes that nobody meant are a sentence', async ({ enter }) => {
  const page = await enter()
  await begin(page, 'Tin boats')
  await addStep(page, 'Ink lines')
  await settled(page)
  await expect(page.locator('[data-part="too-small"]')).toHaveCount(0)
  await set(page, 'Breadth', '0.05')
  await expect(page.locator('[data-part="too-small"]')).toHaveText('Under 3 pixels here: a larger sheet would hold it.')
  await set(page, 'Breadth', '0.4')
  await expect(page.locator('[data-part="too-small"]')).toHaveCount(0)
  await settled(page)
})

/** Cosine of twice the angle that lines run at in a part of a picture: 1 level, −1 upright (structure tensor, Di Zenzo 1986). */
function level(p: Pixels, x0: number, y0: number, side: number): number {
  const v = (x: number, y: number) => p.data[(y * p.w + x) * 3]!
  let [xx, yy] = [0, 0]
  for (let y = y0; y < y0 + side; y++)
    for (let x = x0; x < x0 + side; x++) {
      xx += (v(x + 1, y) - v(x - 1, y)) ** 2
      yy += (v(x, y + 1) - v(x, y - 1)) ** 2
    }
  return (yy - xx) / (xx + yy)
}

test('a hatched portrait is combed by hand: strokes follow, in the download, after undo and in another window', async ({ enter }, info) => {
  test.setTimeout(300_000)
  const page = await enter()
  await begin(page, 'The lantern keeper')
  await addStep(page, 'Hatching')
  await set(page, 'Layers', '1')
  await choose(page, 'Tool', 'Pen')
  await settled(page)
  const before = await shown(page)
  const goes = page.getByRole('group', { name: 'What it goes by' })
  // each is shown, once the photo is studied
  await expect(goes.getByRole('img')).toHaveCount(5)
  await goes.getByRole('button', { name: /^Flow: show it/ }).click()
  await expect(page.locator('[data-painting-on]')).toHaveText('Painting on: Flow of Photo')
  await settled(page)
  // what is seen is the flow
  expect(difference(before, await shown(page))).toBeGreaterThan(10)
  await brush(page, { breadth: 260, cover: 80, edge: 90 })
  await stroke(page, [
    [1200, 1350],
    [1200, 1880],
  ])
  await expect(page.getByRole('button', { name: /^Undo: Flow: comb on flow of Photo/ })).toBeVisible()
  await page.getByRole('radiogroup', { name: 'Show what was found' }).getByText('Picture', { exact: true }).click()
  await settled(page)
  const combed = await shown(page)
  expect(difference(before, combed)).toBeGreaterThan(1)
  const pixels = await downloaded(page, info, 'combed')
  expect(level(pixels, 1150, 1560, 90)).toBeLessThan(-0.6)
  await page.keyboard.press('Control+z')
  await settled(page)
  expect(difference(before, await shown(page))).toBeLessThan(0.001)
  await page.keyboard.press('Control+Shift+z')
  await settled(page)
  await reopened(page)
  await settled(page)
  expect(difference(combed, await shown(page))).toBeLessThan(0.001)
  await proof(page, 'Photo', 'Hatching').click()
  await expect(goes.getByRole('button', { name: /^Flow, changed by hand/ })).toBeVisible()
})

test('a detail pin is set, dragged and taken out: more lines are drawn round it', async ({ enter }, info) => {
  test.setTimeout(300_000)
  const page = await enter()
  await begin(page, 'The lantern keeper')
  await addStep(page, 'Ink lines')
  await set(page, 'Blacks', '0')
  await settled(page)
  const ink = (p: Pixels) => 255 - meanOf(part(p, 450, 1370, 300, 300))
  const before = await downloaded(page, info, 'plain')
  await page
    .getByRole('group', { name: 'What it goes by' })
    .getByRole('button', { name: /^Detail: show it/ })
    .click()
  await page.getByRole('button', { name: 'Set a pin' }).click()
  await expect(page.getByRole('button', { name: 'Undo: Set a detail pin' })).toBeVisible()
  await set(page, 'Pin 1 reaches', '14')
  await pull(page, /^Detail pin 1/, -168, 560)
  await settled(page)
  await page.getByRole('radiogroup', { name: 'Show what was found' }).getByText('Picture', { exact: true }).click()
  await settled(page)
  const after = await downloaded(page, info, 'pinned')
  expect(ink(after)).toBeGreaterThan(1.05 * ink(before))
  await handle(page, /^Detail pin 1/).focus()
  await page.keyboard.press('ArrowRight')
  await page.keyboard.press('Delete')
  await expect(handle(page, /^Detail pin/)).toHaveCount(0)
  await settled(page)
  const without = await downloaded(page, info, 'without')
  expect(without.data.equals(before.data)).toBe(true)
})

test('lines go out as a file of lines: shapes that are the picture, and centre lines', async ({ enter }, info) => {
  const page = await enter()
  await begin(page, 'The boathouse')
  await page.getByRole('button', { name: 'Render', exact: true }).click()
  const dialog = page.getByRole('dialog', { name: 'Render at full size' })
  // a photo alone has none
  await expect(dialog.getByRole('radio', { name: 'Lines, SVG' })).toBeDisabled()
  await page.keyboard.press('Escape')
  await addStep(page, 'Ink lines')
  await settled(page)
  const picture = await downloaded(page, info, 'boathouse')
  await saved(page)
  await page.getByRole('button', { name: 'Render', exact: true }).click()
  await dialog.getByText('Lines, SVG').click()
  for (const way of ['As shapes, as broad as they are drawn', 'As the lines in their middle']) {
    await dialog.getByLabel(way).check()
    await dialog.getByRole('button', { name: /^Render( again)?$/ }).click()
    await expect(dialog.locator('[data-render-state="done"]')).toBeVisible({ timeout: 60_000 })
    const coming = page.waitForEvent('download')
    await dialog.getByRole('link', { name: 'Download' }).click()
    const file = await coming
    expect(file.suggestedFilename()).toBe('The boathouse.svg')
    const path = info.outputPath(`${way}.svg`)
    await file.saveAs(path)
    const svg = readFileSync(path, 'utf8').replace(/ width="[^"]+" height="[^"]+"/, ` width="${picture.w}" height="${picture.h}"`)
    const { data } = await sharp(Buffer.from(svg), { unlimited: true }).flatten({ background: '#fff' }).raw().toBuffer({ resolveWithObject: true })
    let [apart, ink] = [0, 0]
    for (let i = 0; i < data.length; i++) {
      apart += Math.abs(data[i]! - picture.data[i]!)
      ink += 255 - data[i]!
    }
    expect(ink / data.length / 255).toBeGreaterThan(0.02)
    expect(apart / data.length).toBeLessThan(way.startsWith('As shapes') ? 2.5 : 12)
  }
})
