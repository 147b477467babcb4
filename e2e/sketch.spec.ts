import { execFile } from 'node:child_process'
import { readFileSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { promisify } from 'node:util'
import sharp from 'sharp'
import { chain, difference, settled, openRow, pickerFilled, proof, row, saved, shown } from './bench-page.ts'
import { ownPhoto } from './own-photo.ts'
import { expect, root, test } from './studio.ts'

const run = promisify(execFile)

test('a photograph becomes a graphite sketch, is tuned, kept, re-opened and rendered', async ({ enter, studio, context }, info) => {
  test.setTimeout(480_000)
  const page = await enter()
  const trouble: string[] = []
  page.on('pageerror', (e) => trouble.push(e.message))

  // the desk: six photographs, a few begun artworks
  for (const title of ['The lantern keeper', 'Heron on a post', 'The boathouse', 'Lantern stall at dusk', 'Tin boats', 'Marsh at sunset']) {
    await expect(page.getByRole('button', { name: `Begin an artwork from ${title}.jpg` })).toBeVisible()
  }
  await expect(page.getByRole('button', { name: 'Open The keeper in graphite', exact: true })).toBeVisible()

  // a photo of one's own, dropped onto it
  const own = info.outputPath('My quay.jpg')
  await ownPhoto(own, 92, [1800, 1200])
  await page.locator('input[type="file"]').setInputFiles(own)
  const mine = page.getByRole('button', { name: 'Begin an artwork from My quay.jpg' })
  await mine.waitFor()

  // opened, Graphite is shown live on this photo in the picker, and chosen
  const openedAt = Date.now()
  await mine.click()
  const graphite = page.getByRole('dialog', { name: 'Picker' }).getByRole('button', { name: /Graphite/ })
  await graphite.locator('canvas[data-made]').waitFor()
  await pickerFilled(page)
  console.log(`    every step and recipe shown on the photo ${Date.now() - openedAt} ms after it was opened`)
  const spotAt = Date.now()
  await page.getByText('Look spot, 100 %').click()
  await pickerFilled(page)
  console.log(`    and at the look spot ${Date.now() - spotAt} ms after that was asked for`)
  await page.getByText('Whole', { exact: true }).click()
  await settled(page)
  const started = Date.now()
  await graphite.click()
  await row(page, 'Pencil lines').waitFor()
  await page.locator('[data-part="easel"][data-stage="fine"]').waitFor()
  info.annotations.push({ type: 'sketch after', description: `${Date.now() - started} ms` })
  console.log(`    sketch ${Date.now() - started} ms after the click, 2 megapixels`)

  await settled(page)
  console.log(`    settled ${Date.now() - started} ms after the click`)

  // the process sheet shows how it is made
  await expect(page.locator('[data-part="row"] [data-part="who"] b')).toHaveText(['Values and paper', 'Shading', 'Pencil lines', 'Black-and-white'])
  await expect.poll(() => chain(page, 'Black-and-white')).toEqual(['Masses', 'Black-and-white', 'Gaussian blur'])
  await expect.poll(() => chain(page, 'Pencil lines')).toEqual(['Invert', 'Gaussian blur'])
  await expect(page.locator('[data-part="row"] canvas[data-made]')).toHaveCount(4 * 2 + 9)
  const sketch = await shown(page)

  // the blur is dragged and the picture follows
  await openRow(page, 'Pencil lines')
  await proof(page, 'Pencil lines', 'Gaussian blur').click()
  const thumb = page.getByRole('slider', { name: 'Sigma, slider' })
  const box = (await thumb.boundingBox())!
  await page.mouse.move(box.x + box.width / 2, box.y + box.height / 2)
  await page.mouse.down()
  for (let i = 1; i <= 12; i++) await page.mouse.move(box.x + box.width / 2 - i * 6, box.y + box.height / 2)
  await page.mouse.up()
  const dragged = await shown(page)
  expect(difference(sketch, dragged)).toBeGreaterThan(2)
  // a drag is one step back
  await page.getByRole('button', { name: /^Undo: Gaussian blur: Sigma/ }).click()
  expect(difference(sketch, await shown(page))).toBe(0)

  // a value is typed; it was the recipe's, and is free then
  const sigma = page.getByLabel('Sigma', { exact: true })
  await sigma.fill('2')
  await sigma.press('Tab')
  expect(difference(sketch, await shown(page))).toBeGreaterThan(2)
  await expect(page.getByRole('button', { name: 'Undo: Gaussian blur: Sigma to 2 %' })).toBeVisible()

  // a step is switched off and on
  await row(page, 'Pencil lines').getByRole('checkbox', { name: 'Invert on' }).uncheck()
  await expect(page.getByRole('button', { name: 'Undo: Switch Invert off' })).toBeVisible()
  await page.keyboard.press('Control+z')
  await expect(row(page, 'Pencil lines').getByRole('checkbox', { name: 'Invert on' })).toBeChecked()

  // a step is dragged to another place, and by keyboard back
  const blur = proof(page, 'Pencil lines', 'Gaussian blur')
  const from = (await blur.boundingBox())!
  const to = (await row(page, 'Pencil lines').locator('[data-part="gap"]').first().boundingBox())!
  await page.mouse.move(from.x + 30, from.y + 30)
  await page.mouse.down()
  for (let i = 1; i <= 10; i++) await page.mouse.move(from.x + 30 + ((to.x + 12 - from.x - 30) * i) / 10, from.y + 30, { steps: 2 })
  await page.mouse.up()
  await expect.poll(() => chain(page, 'Pencil lines')).toEqual(['Gaussian blur', 'Invert'])
  await expect(page.getByRole('button', { name: 'Undo: Move Gaussian blur' })).toBeVisible()
  await proof(page, 'Pencil lines', 'Gaussian blur').focus()
  await page.keyboard.press('Alt+ArrowRight')
  await expect.poll(() => chain(page, 'Pencil lines')).toEqual(['Invert', 'Gaussian blur'])

  // a step is added from the picker in a gap, and removed
  await row(page, 'Pencil lines').getByRole('button', { name: 'Add a step at place 3' }).click()
  await page.getByLabel('Search steps and recipes').fill('brightness')
  await page
    .getByRole('dialog', { name: 'Picker' })
    .getByRole('button', { name: /Brightness and contrast/ })
    .click()
  await expect.poll(() => chain(page, 'Pencil lines')).toEqual(['Invert', 'Gaussian blur', 'Brightness and contrast'])
  await page.getByRole('button', { name: 'Delete step', exact: true }).click()
  await expect.poll(() => chain(page, 'Pencil lines')).toEqual(['Invert', 'Gaussian blur'])

  // blend mode and opacity of a layer
  await openRow(page, 'Pencil lines')
  const before = await shown(page)
  await page.getByRole('combobox', { name: 'Blend' }).click()
  await page.getByRole('option', { name: 'Soft light' }).click()
  await expect(page.getByRole('button', { name: 'Undo: Blend of “Pencil lines” to Soft light' })).toBeVisible()
  expect(difference(before, await shown(page))).toBeGreaterThan(5)
  await page.keyboard.press('Control+z')
  await page.getByLabel('Opacity', { exact: true }).fill('80')
  await page.getByLabel('Opacity', { exact: true }).press('Tab')
  await expect(page.getByRole('button', { name: 'Undo: Opacity of “Pencil lines” to 80 %' })).toBeVisible()

  // renamed, duplicated, deleted
  await page.getByLabel('Name', { exact: true }).fill('Outlines')
  await page.getByLabel('Name', { exact: true }).press('Enter')
  await row(page, 'Outlines').waitFor()
  await page.getByRole('button', { name: 'Duplicate layer', exact: true }).click()
  await openRow(page, 'Outlines copy')
  await page.getByRole('button', { name: 'Delete layer', exact: true }).click()
  await expect(row(page, 'Outlines copy')).toHaveCount(0)
  // deleting what others are made from is refused with a reason
  await openRow(page, 'Black-and-white')
  await page.getByRole('button', { name: 'Delete layer', exact: true }).click()
  await expect(page.getByRole('alert').filter({ hasText: 'is made from it, live' })).toBeVisible()

  // everything back to the sketch, and forward again, by name
  for (let i = 0; i < 40; i++) {
    const undo = page.getByRole('button', { name: /^Undo: / })
    if ((await undo.count()) === 0 || (await undo.getAttribute('aria-label')) === 'Undo: Recipe Graphite') break
    await undo.click()
  }
  expect(difference(sketch, await shown(page))).toBe(0)
  await expect(page.getByRole('button', { name: 'Redo: Gaussian blur: Sigma to 2 %' })).toBeVisible()
  await page.keyboard.press('Control+Shift+z')
  await expect(page.getByRole('button', { name: 'Undo: Gaussian blur: Sigma to 2 %' })).toBeVisible()
  const tuned = await shown(page)

  // a key held shows the photo, a wipe line lies between
  await page.locator('[data-part="easel"]').hover()
  await page.keyboard.down('o')
  await expect(page.getByText('The photo', { exact: true })).toBeVisible()
  await page.waitForTimeout(600)
  const photo = await shown(page)
  expect(difference(tuned, photo)).toBeGreaterThan(20)
  await page.keyboard.up('o')
  expect(difference(tuned, await shown(page))).toBe(0)
  await page.getByRole('button', { name: 'Compare', exact: true }).click()
  await page.waitForTimeout(400)
  const handle = (await page.getByRole('slider', { name: /^Wipe line/ }).boundingBox())!
  await page.mouse.move(handle.x + 13, handle.y + 13)
  await page.mouse.down()
  await page.mouse.move(handle.x + 113, handle.y + 13, { steps: 5 })
  await page.mouse.up()
  const wiped = await shown(page)
  const middle = Math.floor(wiped.h / 2) * wiped.w
  const at = (s: typeof wiped, x: number) => [...s.data.subarray((middle + x) * 4, (middle + x) * 4 + 3)]
  const line = Math.round(handle.x + 113) - 0
  expect(at(wiped, line - 60)).toEqual(at(photo, line - 60))
  expect(at(wiped, line + 60)).toEqual(at(tuned, line + 60))
  await page.keyboard.press('w')
  await page.keyboard.press('w')
  // side by side: the photo on the left, the artwork on the right, at the same places
  await expect(page.getByText('The artwork', { exact: true })).toBeVisible()
  await settled(page)
  await page.waitForTimeout(400)
  const both = await shown(page)
  const [left, right] = [both.x + 500 * both.scale, both.x + 500 * both.scale + Math.floor(both.w / 2)].map(Math.round)
  const line2 = Math.round(both.y + 600 * both.scale) * both.w
  expect([...both.data.subarray((line2 + left!) * 4, (line2 + left!) * 4 + 3)]).not.toEqual([
    ...both.data.subarray((line2 + right!) * 4, (line2 + right!) * 4 + 3),
  ])
  await page.keyboard.press('w')
  await settled(page)
  expect(difference(tuned, await shown(page))).toBe(0)

  // the tab is closed; opened again, everything is where it was
  await saved(page)
  const { url } = { url: page.url() }
  await page.close()
  const again = await context.newPage()
  await again.goto(url)
  await openRow(again, 'Pencil lines')
  await proof(again, 'Pencil lines', 'Gaussian blur').click()
  await expect(again.getByLabel('Sigma', { exact: true })).toHaveValue('2')
  expect(difference(tuned, await shown(again))).toBe(0)

  // zoom to 100 % at the pointer, and pan
  const easel = (await again.locator('[data-part="easel"]').boundingBox())!
  await again.mouse.move(easel.x + 300, easel.y + 200)
  const beforeZoom = await shown(again)
  const point = (s: typeof beforeZoom) => [(300 - s.x) / s.scale, (200 - s.y) / s.scale]
  await again.mouse.wheel(0, -240)
  const zoomed = await shown(again)
  expect(zoomed.scale).toBeGreaterThan(beforeZoom.scale * 1.2)
  for (const i of [0, 1]) expect(Math.abs(point(zoomed)[i]! - point(beforeZoom)[i]!)).toBeLessThan(3)
  await again.getByRole('button', { name: '100 %', exact: true }).click()
  await again.mouse.move(easel.x + 300, easel.y + 200)
  await again.mouse.down()
  await again.mouse.move(easel.x + 220, easel.y + 150, { steps: 4 })
  await again.mouse.up()
  const atFull = await shown(again)
  expect(atFull.scale).toBe(1)

  // rendered at full size, with progress, and downloaded
  await again.getByRole('button', { name: 'Render', exact: true }).click()
  const dialog = again.getByRole('dialog', { name: 'Render at full size' })
  await dialog.getByLabel('Resolution').fill('240')
  await dialog.getByRole('button', { name: 'Render', exact: true }).click()
  await expect(dialog.locator('[data-render-state="done"]')).toBeVisible({ timeout: 60_000 })
  const waiting = again.waitForEvent('download')
  await dialog.getByRole('link', { name: 'Download' }).click()
  const download = await waiting
  const file = info.outputPath('browser.png')
  await download.saveAs(file)
  expect(download.suggestedFilename()).toBe('My quay.png')
  expect(await sharp(file).metadata()).toMatchObject({ width: 1800, height: 1200, density: 240, format: 'png' })
  const rendered = await sharp(file).ensureAlpha().raw().toBuffer()

  // the pixels on the canvas at 100 % are those of the file
  let compared = 0
  let different = 0
  for (let y = 0; y < atFull.h; y++) {
    for (let x = 0; x < atFull.w; x++) {
      const [ax, ay] = [x - atFull.x, y - atFull.y]
      if (ax < 0 || ay < 0 || ax >= 1800 || ay >= 1200) continue
      compared++
      for (let c = 0; c < 3; c++) {
        if (atFull.data[(y * atFull.w + x) * 4 + c] !== rendered[(ay * 1800 + ax) * 4 + c]) {
          different++
          break
        }
      }
    }
  }
  expect(compared).toBeGreaterThan(300_000)
  expect(different).toBe(0)

  // and the same as the command line's, from the artwork's document
  const id = new URL(again.url()).pathname.split('/').at(-1)!
  const { document } = (await (await again.request.get(`${studio.url}/api/artworks/${id}`)).json()) as { document: unknown }
  writeFileSync(info.outputPath('artwork.json'), JSON.stringify(document))
  await run(process.execPath, [join(root, 'cli/dist/bin.js'), own, '--artwork', info.outputPath('artwork.json'), '--out', info.outputPath('cli.png')])
  expect((await sharp(info.outputPath('cli.png')).ensureAlpha().raw().toBuffer()).equals(rendered)).toBe(true)

  // a JPEG, reduced
  await dialog.getByText('JPEG', { exact: true }).click()
  await dialog.getByLabel('Reduce to a long side').check()
  await dialog.getByLabel('Long side', { exact: true }).fill('900')
  await dialog.getByRole('button', { name: 'Render again' }).click()
  await expect(dialog.getByText('900 × 600 px')).toBeVisible({ timeout: 60_000 })
  const second = again.waitForEvent('download')
  await dialog.getByRole('link', { name: 'Download' }).click()
  const jpeg = info.outputPath('small.jpg')
  await (await second).saveAs(jpeg)
  expect(await sharp(readFileSync(jpeg)).metadata()).toMatchObject({ format: 'jpeg', width: 900 })

  // the list of renders
  await dialog.getByRole('link', { name: 'All renders' }).click()
  await expect(again.getByRole('row', { name: /My quay/ })).toHaveCount(2)
  expect(trouble).toEqual([])
})

test('what the command line makes of a recipe is what the bench makes of it', async ({ enter }, info) => {
  const page = await enter()
  await page.getByRole('button', { name: 'Begin an artwork from Heron on a post.jpg' }).click()
  await page
    .getByRole('dialog', { name: 'Picker' })
    .getByRole('button', { name: /Graphite/ })
    .click()
  await row(page, 'Pencil lines').waitFor()
  await page.getByRole('button', { name: 'Render', exact: true }).click()
  const dialog = page.getByRole('dialog', { name: 'Render at full size' })
  await dialog.getByRole('button', { name: 'Render', exact: true }).click()
  await expect(dialog.locator('[data-render-state="done"]')).toBeVisible({ timeout: 60_000 })
  const waiting = page.waitForEvent('download')
  await dialog.getByRole('link', { name: 'Download' }).click()
  const file = info.outputPath('browser.png')
  await (await waiting).saveAs(file)
  await run(process.execPath, [
    join(root, 'cli/dist/bin.js'),
    join(root, 'demo/photos/heron-on-post.jpg'),
    '--recipe',
    'graphite',
    '--out',
    info.outputPath('cli.png'),
  ])
  expect((await sharp(info.outputPath('cli.png')).raw().toBuffer()).equals(await sharp(file).raw().toBuffer())).toBe(true)
})
