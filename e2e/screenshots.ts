import { join } from 'node:path'
import { settled, openRow, proof, row } from './bench-page.ts'
import { stroke } from './brush.ts'
import { addStep, choose, set } from './by-hand.ts'
import { root, test } from './studio.ts'

// npm test -- screenshots: one current picture of each main view, from the demo data.

const shot = (name: string) => join(root, 'docs/screenshots', `${name}.png`)

for (const scheme of ['light', 'dark'] as const) {
  test.describe(scheme, () => {
    test.use({ colorScheme: scheme })
    test(`main views, ${scheme}`, async ({ page, enter, studio }) => {
      test.setTimeout(240_000)
      const take = async (name: string) => {
        await page.mouse.move(640, 400)
        await page.waitForTimeout(400)
        return page.screenshot({ path: shot(scheme === 'light' ? name : `${name}-dark`) })
      }
      await page.goto(studio.url)
      await page.getByRole('button', { name: 'Enter the demo studio' }).waitFor()
      await page.waitForTimeout(500)
      await take('sign-in')
      await enter()
      await page.waitForTimeout(1500)
      await take('desk')
      await page.getByRole('button', { name: 'Begin an artwork from Marsh at sunset.jpg' }).click()
      await page.locator('[data-part="picker"] canvas[data-made]').nth(8).waitFor()
      await settled(page)
      await page.waitForTimeout(500)
      await take('picker')
      await page
        .getByRole('dialog', { name: 'Picker' })
        .getByRole('button', { name: /Graphite/ })
        .click()
      await row(page, 'Pencil lines').waitFor()
      await settled(page)
      await page.waitForTimeout(1500)
      await take('bench')
      await openRow(page, 'Pencil lines')
      await proof(page, 'Pencil lines', 'Gaussian blur').click()
      await page.getByText('Look spot, 100 %').click()
      await page.getByRole('button', { name: '100 %', exact: true }).click()
      await page.getByRole('button', { name: 'Wipe line', exact: true }).click()
      await settled(page)
      await page.waitForTimeout(1500)
      await take('bench-wipe')
      await page.getByText('Whole', { exact: true }).click()
      if (scheme === 'dark') return
      // painting: a mask as an overlay, its brush in hand
      await page.goto(studio.url)
      await page.getByRole('button', { name: 'Open The keeper in graphite' }).click()
      await settled(page)
      await page.getByRole('button', { name: 'What is painted on' }).click()
      await page.getByRole('menuitem', { name: 'Mask of Shading, new' }).click()
      await page.locator('[data-part="tuning"]').getByText('Overlay', { exact: true }).click()
      await page.locator('[data-part="tuning"]').getByText('Take away', { exact: true }).click()
      await stroke(page, [
        [380, 620],
        [520, 900],
        [760, 1010],
        [980, 860],
        [1080, 560],
      ])
      await page.waitForTimeout(800)
      await take('painting')
      // one technique with its editor, and its proof sheet
      await page.goto(studio.url)
      await page.getByRole('button', { name: 'Begin an artwork from The boathouse.jpg' }).click()
      await addStep(page, 'Contours')
      await page.locator('[data-part="tuning"] [data-part="controls"]').evaluate((e) => e.scrollTo(0, 260))
      await settled(page)
      await page.waitForTimeout(800)
      await take('contours')
      await page.getByRole('button', { name: 'Proof sheet: try values side by side' }).click()
      await page.locator('[data-part="proof-sheet"] canvas[data-made]').nth(8).waitFor()
      await page.waitForTimeout(600)
      await take('proof-sheet')
      await page.goto(studio.url)
      await page.getByRole('button', { name: 'Begin an artwork from Marsh at sunset.jpg' }).click()
      await addStep(page, 'Gradient map')
      await page.getByRole('switch', { name: 'Tonal span' }).focus()
      await page.keyboard.press('Space')
      await settled(page)
      await page.waitForTimeout(800)
      await take('gradient-map')
      // a relief by another picture, under the artwork's lamp
      await page.goto(studio.url)
      await page.getByRole('button', { name: 'Begin an artwork from Heron on a post.jpg' }).click()
      await addStep(page, 'Surface relief')
      await choose(page, 'Surface', 'From a picture')
      await page.getByRole('button', { name: 'Picture: None' }).click()
      await page.getByRole('option', { name: 'Cold-pressed paper.jpg' }).click()
      await set(page, 'Depth', '70')
      await settled(page)
      await page.waitForTimeout(800)
      await take('relief')
      await page.goBack()
      await page.getByRole('button', { name: 'Begin an artwork from The boathouse.jpg' }).click()
      await addStep(page, 'Gradient map')
      await settled(page)
      await page.getByRole('button', { name: 'Render', exact: true }).click()
      const dialog = page.getByRole('dialog', { name: 'Render at full size' })
      await dialog.getByRole('button', { name: 'Render', exact: true }).click()
      await dialog.locator('[data-render-state="done"]').waitFor({ timeout: 60_000 })
      await page.waitForTimeout(400)
      await take('render-dialog')
      await dialog.getByRole('link', { name: 'All renders' }).click()
      await page.getByRole('row', { name: /The boathouse/ }).waitFor()
      await page.waitForTimeout(400)
      await take('renders')
      await page.goto(`${studio.url}/bench/00000000-0000-4000-8000-000000000000`)
      await page.getByRole('alert').waitFor()
      await take('error')
      await page.context().clearCookies()
      await page.goto(studio.url)
      await page.getByRole('button', { name: 'Open an account' }).click()
      await page.getByLabel('Name').fill('Wren Saltmarsh')
      await page.getByLabel('E-mail').fill('wren@brackwater.example')
      await page.getByRole('textbox', { name: 'Password' }).fill('reeds and lanterns')
      await page.getByRole('button', { name: 'Sign up' }).click()
      await page.getByText('No artworks yet').waitFor()
      await page.waitForTimeout(400)
      await take('desk-empty')
    })
  })
}
