import { execFileSync } from 'node:child_process'
import { writeFileSync } from 'node:fs'
import { join } from 'node:path'
import sharp from 'sharp'
import { chain, openRow, proof, row, saved, settled } from './bench-page.ts'
import { addStep, begin, reopened, set } from './by-hand.ts'
import { downloaded } from './brush.ts'
import { expect, root, test } from './studio.ts'

// What is kept: the history gone back in, states by name, recipes of one's own on other photos and as files.

test('the history is gone back and forth in by name; a state is kept, gone back to, opened as an artwork, forgotten', async ({ enter }, info) => {
  test.setTimeout(300_000)
  const page = await enter()
  await begin(page, 'The lantern keeper')
  await addStep(page, 'Posterize')
  await openRow(page, 'Photo')
  await addStep(page, 'Invert')
  await settled(page)
  await page.getByRole('button', { name: 'History' }).click()
  const states = page.getByRole('list', { name: 'States' }).getByRole('button')
  await expect(states).toHaveCount(3)
  await expect(states.nth(0)).toHaveAttribute('aria-current', 'true')
  await states.filter({ hasText: 'As it was opened' }).click()
  expect(await chain(page, 'Photo')).toEqual([])
  await states.filter({ hasText: 'Add Posterize' }).click()
  await page.keyboard.press('Escape')
  expect(await chain(page, 'Photo')).toEqual(['Posterize'])
  await settled(page)
  const before = await downloaded(page, info, 'before')

  await page.getByRole('button', { name: 'Keep states and recipes' }).click()
  await page.getByRole('menuitem', { name: 'Keep this state' }).click()
  await page.getByLabel('Name of the state').fill('Flat tones')
  await page.getByRole('button', { name: 'Keep it' }).click()
  await expect(page.getByText('“Flat tones” is kept.')).toBeVisible()
  await proof(page, 'Photo', 'Posterize').click()
  await set(page, 'Tones', '2')
  await openRow(page, 'Photo')
  await addStep(page, 'Halftone')
  await saved(page)
  await page.getByRole('button', { name: 'Keep states and recipes' }).click()
  await page.getByRole('menuitem', { name: 'Kept states' }).click()
  const kept = page.getByRole('list', { name: 'Kept states' })
  await expect(kept.getByText('Flat tones')).toBeVisible()
  await kept.getByRole('button', { name: 'Go back to it' }).click()
  await expect(page.getByRole('button', { name: 'Undo: Back to “Flat tones”' })).toBeVisible()
  expect(await chain(page, 'Photo')).toEqual(['Posterize'])
  await settled(page)
  const after = await downloaded(page, info, 'after')
  expect(after.data.equals(before.data)).toBe(true)
  await reopened(page)
  await page.getByRole('button', { name: 'Keep states and recipes' }).click()
  await page.getByRole('menuitem', { name: 'Kept states' }).click()
  await kept.getByRole('button', { name: 'Open as an artwork' }).click()
  await expect(page.getByLabel('Title of the artwork')).toHaveValue('The lantern keeper, Flat tones')
})

test('a recipe is made of an artwork, put on another photo, taken to the command line and back as a file', async ({ enter }, info) => {
  test.setTimeout(300_000)
  const page = await enter()
  await begin(page, 'The lantern keeper')
  await addStep(page, 'Posterize')
  await set(page, 'Tones', '5')
  await openRow(page, 'Photo')
  await addStep(page, 'Halftone')
  await saved(page)
  await page.getByRole('button', { name: 'Keep states and recipes' }).click()
  await page.getByRole('menuitem', { name: 'Make a recipe of it' }).click()
  const dialog = page.getByRole('dialog', { name: 'A recipe of this artwork' })
  await dialog.getByLabel('Title').fill('Lantern dots')
  await dialog.getByLabel('Search values').fill('tones')
  await dialog.getByRole('checkbox', { name: 'Photo · Posterize: Tones', exact: true }).check()
  await dialog.getByLabel('Photo · Posterize: Tones, called').fill('Plates')
  await dialog.getByLabel('Photo · Posterize: Tones, to').fill('2')
  await dialog.getByRole('button', { name: 'Make the recipe' }).click()
  // its ends are the same: it would drive nothing
  await expect(page.getByText(/drives nothing/)).toBeVisible()
  await dialog.getByLabel('Photo · Posterize: Tones, to').fill('10')
  await dialog.getByRole('button', { name: 'Make the recipe' }).click()
  await expect(page.getByText(/“Lantern dots” stands in the picker now/)).toBeVisible()

  // on another photo, from the picker
  await page.getByRole('link', { name: 'Desk', exact: true }).click()
  await begin(page, 'Heron on a post')
  await page.getByLabel('Search steps and recipes').fill('Lantern dots')
  await page
    .getByRole('dialog', { name: 'Picker' })
    .getByRole('button', { name: /^Lantern dots on this photo/ })
    .click()
  await expect(page.getByRole('heading', { name: 'Lantern dots' })).toBeVisible()
  expect(await chain(page, 'Photo')).toEqual(['Posterize', 'Halftone'])
  await set(page, 'Plates', '0')
  await openRow(page, 'Photo')
  await proof(page, 'Photo', 'Posterize').click()
  await expect(page.locator('[data-part="tuning"]').getByLabel('Tones', { exact: true })).toHaveValue('2')
  await settled(page)
  const bench = await downloaded(page, info, 'bench')

  // as a file: the command line gives the same pixels
  await page.getByRole('button', { name: 'Keep states and recipes' }).click()
  await page.getByRole('menuitem', { name: 'Recipes of your own' }).click()
  const waiting = page.waitForEvent('download')
  await page.getByRole('button', { name: 'As a file' }).click()
  const file = info.outputPath('lantern-dots.recipe.json')
  await (await waiting).saveAs(file)
  const out = info.outputPath('by-command.png')
  execFileSync(process.execPath, [
    join(root, 'cli/dist/bin.js'),
    join(root, 'demo/photos/heron-on-post.jpg'),
    '--recipe',
    file,
    '--set',
    'own-1=0',
    '--out',
    out,
  ])
  const { data, info: size } = await sharp(out).removeAlpha().raw().toBuffer({ resolveWithObject: true })
  expect([size.width, size.height]).toEqual([bench.w, bench.h])
  expect(data.equals(bench.data)).toBe(true)

  // forgotten, and taken in again from the file; what is no recipe is told of
  await page.getByRole('button', { name: 'Forget' }).click()
  await expect(page.getByText(/^None yet/)).toBeVisible()
  await page.keyboard.press('Escape')
  await page.getByLabel('Recipe file').setInputFiles(file)
  await expect(page.getByText('“Lantern dots” stands in the picker now.')).toBeVisible()
  const wrong = info.outputPath('list.json')
  writeFileSync(wrong, '{"lanterns": 12}')
  await page.getByLabel('Recipe file').setInputFiles(wrong)
  await expect(page.getByRole('alert').filter({ hasText: /recipe/ })).toBeVisible()
  await expect(row(page, 'Photo')).toBeVisible()
})
