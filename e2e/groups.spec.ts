import type { Page } from '@playwright/test'
import { difference, openRow, row, saved, settled, shown } from './bench-page.ts'
import { addLayer, addStep, begin, choose, deed, set } from './by-hand.ts'
import { apart, brush, downloaded, part, stroke, type Pixels } from './brush.ts'
import { expect, test } from './studio.ts'

// Layers and groups, by pointer, by menu and by key; each ends in an artwork opened again.

const names = (page: Page) => page.locator('[data-part="row"] [data-part="who"] b')
const who = (page: Page, name: string) => row(page, name).locator('[data-part="who"]')
/** What a menu that opens at the pointer offers. */
/** Where the drawing is dense. */
const middle = (p: Pixels) => part(p, 500, 700, 400, 300)
async function graphite(page: Page): Promise<void> {
  await begin(page, 'The lantern keeper')
  await page.getByLabel('Search steps and recipes').fill('Graphite')
  await page
    .getByRole('dialog', { name: 'Picker' })
    .getByRole('button', { name: /^Graphite on this photo/ })
    .click()
  await settled(page)
}

test('layers are grouped, folded, dragged in and out, locked, shown alone; the picture stays where it should', async ({ enter }, info) => {
  test.setTimeout(240_000)
  const page = await enter()
  await graphite(page)
  // the room for the picture changes with the rows, so what is delivered is compared
  let n = 0
  const drawn = await downloaded(page, info, 'drawn')
  const moved = async () => apart(middle(drawn), middle(await downloaded(page, info, `drawn-${++n}`)))
  await openRow(page, 'Shading')
  await who(page, 'Pencil lines').click({ modifiers: ['Control'] })
  await page.keyboard.press('Shift+G')
  await expect(names(page)).toHaveText(['Values and paper', 'Group', 'Shading', 'Pencil lines', 'Black-and-white'])
  // open: each blends with what lies below, as before
  expect(await moved()).toBe(0)
  await page.getByRole('radiogroup', { name: 'Group is' }).getByText('Isolated').click()
  expect(await moved()).toBeGreaterThan(2)
  await page.getByRole('button', { name: /^Undo: “Group” is isolated/ }).click()
  expect(await moved()).toBe(0)
  // folded and unfolded by key
  await who(page, 'Group').focus()
  await page.keyboard.press('ArrowLeft')
  await expect(names(page)).toHaveText(['Values and paper', 'Group', 'Black-and-white'])
  await page.keyboard.press('ArrowRight')
  await expect(names(page)).toHaveText(['Values and paper', 'Group', 'Shading', 'Pencil lines', 'Black-and-white'])
  // dragged into the group, between its layers
  const from = (await who(page, 'Values and paper').boundingBox())!
  await page.mouse.move(from.x + 30, from.y + 10)
  await page.mouse.down()
  await page.mouse.move(from.x + 40, from.y + 30, { steps: 4 })
  // let go of where the mark between the rows says, wherever these have come to lie
  await expect(async () => {
    const to = (await row(page, 'Pencil lines').boundingBox())!
    await page.mouse.move(to.x + 60, to.y - 1, { steps: 8 })
    await expect(page.locator('[data-part="layer-gap"][data-over] + [aria-label="Layer Pencil lines"]')).toHaveCount(1, { timeout: 2000 })
  }).toPass()
  await page.mouse.up()
  await expect(names(page)).toHaveText(['Group', 'Shading', 'Values and paper', 'Pencil lines', 'Black-and-white'])
  await expect(page.getByRole('button', { name: /^Undo: Move layer “Values and paper”/ })).toBeVisible()
  // and out again by keys: two up, the second one out of the group
  await who(page, 'Values and paper').focus()
  for (let i = 0; i < 2; i++) await page.keyboard.press('Alt+ArrowUp')
  await expect(names(page)).toHaveText(['Values and paper', 'Group', 'Shading', 'Pencil lines', 'Black-and-white'])
  expect(await moved()).toBe(0)
  // locked, it is not changed, and says so
  await deed(page, 'Group', 'Locked')
  await expect(row(page, 'Group').getByLabel('Locked')).toBeVisible()
  await openRow(page, 'Shading')
  await set(page, 'Opacity', '80')
  await expect(page.getByText('“Shading” is in “Group”, which is locked. Nothing was changed; unlock it first.')).toBeVisible()
  // by the menu key
  await who(page, 'Group').focus()
  await page.keyboard.press('Shift+F10')
  await page.getByRole('menu').getByRole('button', { name: 'Mark woad' }).click()
  await expect(row(page, 'Group').getByLabel('Marked woad')).toBeVisible()
  await deed(page, 'Pencil lines', 'Alone')
  await expect(page.getByText('Pencil lines, alone')).toBeVisible()
  const alone = await shown(page)
  await deed(page, 'Pencil lines', 'Alone')
  await expect(page.getByText('Pencil lines, alone')).toHaveCount(0)
  expect(difference(alone, await shown(page))).toBeGreaterThan(5)
  await saved(page)
  await page.reload()
  await page.locator('[data-part="row"]').first().waitFor()
  await expect(names(page)).toHaveText(['Values and paper', 'Group', 'Shading', 'Pencil lines', 'Black-and-white'])
  await expect(row(page, 'Group').getByLabel('Locked')).toBeVisible()
  await expect(row(page, 'Group').getByLabel('Marked woad')).toBeVisible()
  // unlocked and taken apart, all is as it was
  await deed(page, 'Group', 'Locked')
  await deed(page, 'Group', 'Take the group apart')
  await expect(names(page)).toHaveText(['Values and paper', 'Shading', 'Pencil lines', 'Black-and-white'])
  expect(await moved()).toBe(0)
})

test('a live copy follows its original and, made its own, no more; a layer follows the one below', async ({ enter }, info) => {
  test.setTimeout(180_000)
  const page = await enter()
  await begin(page, 'Tin boats')
  await page.keyboard.press('Escape')
  await addStep(page, 'Posterize')
  await openRow(page, 'Photo')
  await deed(page, 'Photo', 'Duplicate, live')
  await openRow(page, 'Photo, live')
  await choose(page, 'Blend', 'Multiply')
  const before = await shown(page)
  await openRow(page, 'Photo')
  await row(page, 'Photo').locator('[data-part="proof"]', { hasText: 'Posterize' }).click()
  await set(page, 'Tones', '2')
  const both = await downloaded(page, info, 'both')
  expect(difference(before, await shown(page))).toBeGreaterThan(2)
  await deed(page, 'Photo, live', 'Make it its own')
  const own = await downloaded(page, info, 'own')
  expect(apart(part(both, 600, 600, 200, 200), part(own, 600, 600, 200, 200))).toBe(0)
  await openRow(page, 'Photo')
  await row(page, 'Photo').locator('[data-part="proof"]', { hasText: 'Posterize' }).click()
  await set(page, 'Tones', '9')
  await expect(row(page, 'Photo, live').locator('[data-part="cap"]', { hasText: 'Posterize' })).toHaveCount(1)
  // a fill follows a layer of paint: it colours the strokes and nothing else
  await openRow(page, 'Photo, live')
  await addLayer(page, 'Paint, by brush')
  await brush(page, { breadth: 200, cover: 100, edge: 95 })
  await stroke(page, [
    [500, 500],
    [900, 500],
  ])
  await openRow(page, 'Paint')
  await page.getByRole('button', { name: 'Layer', exact: true }).click()
  await page.getByRole('menuitem', { name: 'A fill …' }).click()
  await page.getByLabel('Colour of the fill').fill('#20c040')
  await page.getByRole('button', { name: 'Add fill' }).click()
  await page.getByRole('switch', { name: 'Follows the layer below' }).focus()
  await page.keyboard.press('Space')
  await expect(row(page, 'Fill').getByLabel('Follows the layer below')).toBeVisible()
  const filled = await downloaded(page, info, 'filled')
  expect(part(filled, 680, 490, 20, 20).every(([r, g, b]) => r === 0x20 && g === 0xc0 && b === 0x40)).toBe(true)
  expect(part(filled, 100, 100, 40, 40).some(([r, g, b]) => r === 0x20 && g === 0xc0 && b === 0x40)).toBe(false)
  await page.reload()
  await page.locator('[data-part="row"]').first().waitFor()
  await expect(row(page, 'Fill').getByLabel('Follows the layer below')).toBeVisible()
})

test('a recipe is painted in as a whole: it stands in a group whose mask the brush brings', async ({ enter }, info) => {
  test.setTimeout(180_000)
  const page = await enter()
  await begin(page, 'The lantern keeper')
  await page.keyboard.press('Escape')
  await addStep(page, 'Levels')
  const plain = await downloaded(page, info, 'plain')
  await addStep(page, 'Graphite')
  await expect(row(page, 'Graphite')).toBeVisible()
  await expect(names(page)).toContainText(['Graphite', 'Values and paper', 'Shading', 'Pencil lines', 'Black-and-white', 'Photo'])
  await settled(page)
  const drawn = await downloaded(page, info, 'drawn')
  await openRow(page, 'Graphite')
  await page.getByRole('group', { name: 'Mask' }).getByRole('button', { name: 'Paint it in' }).click()
  await expect(page.getByText('Painting on: Mask of Graphite').first()).toBeVisible()
  await page.getByRole('radio', { name: /^Firm/ }).click()
  await brush(page, { breadth: 400, cover: 100, edge: 100 })
  await stroke(page, [
    [700, 800],
    [900, 800],
  ])
  const mixed = await downloaded(page, info, 'mixed')
  expect(apart(part(mixed, 750, 780, 60, 40), part(drawn, 750, 780, 60, 40))).toBe(0)
  expect(apart(part(mixed, 100, 100, 200, 200), part(plain, 100, 100, 200, 200))).toBe(0)
  expect(apart(part(drawn, 100, 100, 200, 200), part(plain, 100, 100, 200, 200))).toBeGreaterThan(5)
})

test('a gradient is laid, dragged on the picture, delivered as it is shown, and there when it is opened again', async ({ enter }, info) => {
  test.setTimeout(120_000)
  const page = await enter()
  await begin(page, 'Tin boats')
  await page.keyboard.press('Escape')
  await addLayer(page, 'A gradient')
  const own = await downloaded(page, info, 'own')
  // down the sheet, from dark to clear
  const light = (p: Pixels, y: number) =>
    part(p, 200, y, 300, 4)
      .flat()
      .reduce((a, b) => a + b, 0)
  const { scale } = await shown(page)
  const end = page.getByRole('button', { name: /^Gradient ends/ })
  const from = (await end.boundingBox())!
  await page.mouse.move(from.x + 12, from.y + 12)
  await page.mouse.down()
  await page.mouse.move(from.x + 12, from.y + 12 - 960 * scale, { steps: 6 })
  await page.mouse.up()
  await settled(page)
  const shorter = await downloaded(page, info, 'shorter')
  // half as long: clear from the middle on, and less in between
  expect(light(shorter, 500)).toBeGreaterThan(light(own, 500))
  expect(light(shorter, 1100)).toBeGreaterThan(light(own, 1100))
  await page.getByRole('button', { name: /^Undo: Place of the gradient/ }).waitFor()
  await saved(page)
  const last = await shown(page)
  await page.reload()
  await page.locator('[data-part="row"]').first().waitFor()
  expect(difference(last, await shown(page))).toBeLessThan(0.02)
})

test('layers are merged and flattened at full size: the download is the same, and one undo brings them back', async ({ enter }, info) => {
  test.setTimeout(180_000)
  const page = await enter()
  await graphite(page)
  const drawn = await downloaded(page, info, 'drawn')
  await deed(page, 'Values and paper', 'Flattened copy on top')
  await expect(names(page)).toHaveText(['Flattened copy', 'Values and paper', 'Shading', 'Pencil lines', 'Black-and-white'], { timeout: 30_000 })
  const copied = await downloaded(page, info, 'copied')
  expect(Buffer.compare(copied.data, drawn.data)).toBe(0)
  await page.getByRole('button', { name: /^Undo: Add layer “Flattened copy”/ }).click()
  await deed(page, 'Shading', 'Flatten all')
  await expect(names(page)).toHaveText(['Flattened'], { timeout: 30_000 })
  const flat = await downloaded(page, info, 'flat')
  expect(Buffer.compare(flat.data, drawn.data)).toBe(0)
  await page.getByRole('button', { name: /^Undo: Merge 4 layers/ }).click()
  await expect(names(page)).toHaveText(['Values and paper', 'Shading', 'Pencil lines', 'Black-and-white'])
  await page.getByRole('button', { name: /^Redo: Merge 4 layers/ }).click()
  await saved(page)
  await page.reload()
  await page.locator('[data-part="row"]').first().waitFor()
  await expect(names(page)).toHaveText(['Flattened'])
  await settled(page)
})
