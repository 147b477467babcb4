import { join } from 'node:path'
import { copyFileSync, writeFileSync } from 'node:fs'
import sharp from 'sharp'
import { settled, openRow, proof, row, saved } from './bench-page.ts'
import { expect, root, test } from './studio.ts'

test('the server is killed while one works: nothing acknowledged is lost, nor what was done meanwhile', async ({ enter, studio }) => {
  const page = await enter()
  await page.getByRole('button', { name: 'Open Heron for the poster' }).click()
  await openRow(page, 'Pencil lines')
  await proof(page, 'Pencil lines', 'Gaussian blur').click()
  const sigma = page.getByLabel('Sigma', { exact: true })
  await sigma.fill('1.5')
  await sigma.press('Tab')
  await saved(page)

  await studio.kill('SIGKILL')
  await openRow(page, 'Shading')
  await page.getByLabel('Opacity', { exact: true }).fill('50')
  await page.getByLabel('Opacity', { exact: true }).press('Tab')
  await expect(page.locator('[data-save="away"]')).toHaveText('Server away; kept in this browser')

  // the page itself is closed and opened again while the server is away, then it comes back
  const url = page.url()
  const context = page.context()
  await page.close()
  await studio.start()
  const again = await context.newPage()
  await again.goto(url)
  await expect(again.getByText('Changes that were not sent when the page was closed are back.')).toBeVisible()
  await openRow(again, 'Shading')
  await expect(again.getByLabel('Opacity', { exact: true })).toHaveValue('50 %')
  await openRow(again, 'Pencil lines')
  await proof(again, 'Pencil lines', 'Gaussian blur').click()
  await expect(again.getByLabel('Sigma', { exact: true })).toHaveValue('1.5')
  await saved(again)
  const id = new URL(url).pathname.split('/').at(-1)!
  const { document } = (await (await again.request.get(`${studio.url}/api/artworks/${id}`)).json()) as {
    document: { layers: { name: string; opacity: number }[] }
  }
  expect(document.layers.find((l) => l.name === 'Shading')!.opacity).toBe(0.5)
})

test('a tab closed right after a value was typed: it is there when the artwork is opened again, and nothing is asked', async ({ enter, studio }) => {
  let page = await enter()
  const context = page.context()
  await page.getByRole('button', { name: 'Open The keeper in graphite' }).click()
  await openRow(page, 'Shading')
  const url = page.url()
  let typed = 20
  for (const killed of [false, true]) {
    for (const rest of [0, 100, 400, 800]) {
      typed++
      await page.getByLabel('Opacity', { exact: true }).fill(String(typed))
      await page.waitForTimeout(rest)
      await page.close()
      if (killed) {
        await studio.kill('SIGKILL')
        await studio.start()
      }
      page = await context.newPage()
      await page.goto(url)
      await openRow(page, 'Shading')
      await expect(page.getByLabel('Opacity', { exact: true })).toHaveValue(`${typed} %`)
      await saved(page)
      await expect(page.getByRole('dialog', { name: 'Two versions of this artwork' })).toHaveCount(0)
    }
  }
})

test('a dropped connection is waited out, and the change is sent when it is back', async ({ enter, context }) => {
  const page = await enter()
  await page.getByRole('button', { name: 'Open Marsh, fine point' }).click()
  await openRow(page, 'Shading')
  await context.setOffline(true)
  await page.getByLabel('Opacity', { exact: true }).fill('41')
  await page.getByLabel('Opacity', { exact: true }).press('Tab')
  await expect(page.locator('[data-save="away"]')).toBeVisible()
  await context.setOffline(false)
  await saved(page)
})

test('a change made elsewhere is told, not overwritten; both versions can be kept', async ({ enter, context, studio }) => {
  const page = await enter()
  await page.getByRole('button', { name: 'Open The keeper in graphite' }).click()
  await settled(page)
  const other = await context.newPage()
  await other.goto(page.url())
  await openRow(other, 'Shading')
  await other.getByLabel('Opacity', { exact: true }).fill('11')
  await other.getByLabel('Opacity', { exact: true }).press('Tab')
  await saved(other)

  await openRow(page, 'Shading')
  await page.getByLabel('Opacity', { exact: true }).fill('77')
  await page.getByLabel('Opacity', { exact: true }).press('Tab')
  const told = page.getByRole('dialog', { name: 'Two versions of this artwork' })
  await expect(told).toContainText('changed elsewhere')
  await told.getByRole('button', { name: 'Keep mine as a copy' }).click()
  await expect(page.getByLabel('Title of the artwork')).toHaveValue('The keeper in graphite (kept copy)')
  await openRow(page, 'Shading')
  await expect(page.getByLabel('Opacity', { exact: true })).toHaveValue('77 %')
  const kept = ((await (await page.request.get(`${studio.url}/api/artworks`)).json()) as { title: string; id: string }[]).find(
    (a) => a.title === 'The keeper in graphite',
  )!
  const { document } = (await (await page.request.get(`${studio.url}/api/artworks/${kept.id}`)).json()) as {
    document: { layers: { name: string; opacity: number }[] }
  }
  expect(document.layers.find((l) => l.name === 'Shading')!.opacity).toBe(0.11)
})

test('what is not a usable picture is told at the desk, and the rest goes on', async ({ enter }, info) => {
  const page = await enter()
  const files: [string, Buffer | string, string][] = [
    ['empty.jpg', '', 'The file is empty'],
    ['notes.jpg', 'Lantern Week, things to bring', 'is not a picture that can be read'],
  ]
  for (const [name, content, message] of files) {
    const path = info.outputPath(name)
    writeFileSync(path, content)
    await page.locator('input[type="file"]').setInputFiles(path)
    await expect(page.getByRole('alert').filter({ hasText: message })).toBeVisible()
  }
  const usable = info.outputPath('reeds.jpg')
  await sharp(join(root, 'demo/papers/wash-tide.jpg')).resize(640).jpeg().toFile(usable)
  await page.locator('input[type="file"]').setInputFiles(usable)
  await page.getByRole('button', { name: 'Begin an artwork from reeds.jpg' }).waitFor()
  // the same picture under another name is the same photo, and that is said
  copyFileSync(usable, info.outputPath('again.jpg'))
  await page.locator('input[type="file"]').setInputFiles(info.outputPath('again.jpg'))
  await expect(page.getByText('is on your desk already')).toBeVisible()
})

test('an account of one’s own: an empty desk, strangers’ artworks are not there, signing out', async ({ page, studio }) => {
  await page.goto(`${studio.url}/renders`)
  await page.getByRole('button', { name: 'Open an account' }).click()
  await page.getByLabel('Name').fill('Wren Saltmarsh')
  await page.getByLabel('E-mail').fill('wren@brackwater.example')
  await page.getByRole('textbox', { name: 'Password' }).fill('reeds and lanterns')
  await page.getByRole('button', { name: 'Sign up' }).click()
  await expect(page.getByText('Nothing rendered yet')).toBeVisible()
  await page.getByRole('link', { name: 'Desk', exact: true }).click()
  await expect(page.getByText('No artworks yet')).toBeVisible()
  await page.goto(`${studio.url}/bench/00000000-0000-4000-8000-000000000000`)
  await expect(page.getByRole('alert')).toContainText('There is no such artwork')
  await page.getByRole('button', { name: 'Back to the desk' }).click()
  await expect(page.getByText('No artworks yet')).toBeVisible()
  await page.getByRole('button', { name: 'Account' }).click()
  await page.getByRole('menuitem', { name: 'Sign out' }).click()
  await page.getByRole('button', { name: 'Sign in' }).waitFor()
})

test('a deleted artwork can be brought back', async ({ enter }) => {
  const page = await enter()
  await page.getByRole('button', { name: 'More for Programme cover, black and paper' }).click()
  await page.getByRole('menuitem', { name: 'Delete' }).click()
  const card = page.getByRole('button', { name: 'Open Programme cover, black and paper' })
  await expect(card).toHaveCount(0)
  await page.getByRole('button', { name: 'Undo' }).click()
  await card.click()
  await expect(row(page, 'Warm paper')).toBeVisible()
  // with a paper filled in below, its proofs are made too
  await expect(page.locator('[data-part="row"] canvas[data-made]')).toHaveCount(2 + 2 + 3)
})
