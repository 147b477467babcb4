import { join } from 'node:path'
import { openRow, pickerFilled, proof, row, settled } from './bench-page.ts'
import { onScreen, stroke, tap } from './brush.ts'
import { addLayer, addStep, begin, choose, set } from './by-hand.ts'
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
      if (scheme === 'light') await take('sign-in')
      await enter()
      await page.waitForTimeout(1500)
      if (scheme === 'light') await take('desk')
      await page.getByRole('button', { name: 'Begin an artwork from Marsh at sunset.jpg' }).click()
      await settled(page)
      await pickerFilled(page)
      await page.waitForTimeout(500)
      if (scheme === 'light') await take('picker')
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
      if (scheme === 'dark') {
        // birds that are to be gone from a sky: some are, one is painted over
        await page.goto(studio.url)
        await begin(page, 'Marsh at sunset')
        await page.keyboard.press('Escape')
        await settled(page)
        await page.keyboard.press('n')
        await settled(page)
        await page.waitForTimeout(600)
        await set(page, 'Breadth', '64')
        const at = await onScreen(page)
        const bird = async (x: number, y: number, lifted = true) => {
          await page.mouse.move(...at([x - 12, y]))
          await page.mouse.down()
          await page.mouse.move(...at([x + 12, y]), { steps: 4 })
          if (lifted) await page.mouse.up()
          await page.waitForTimeout(1200)
        }
        for (const [x, y] of [
          [706, 356],
          [790, 370],
          [812, 376],
        ] as const)
          await bird(x, y)
        await bird(866, 408, false)
        await page.screenshot({ path: shot('mend-dark') })
        await page.mouse.up()
        return
      }
      // an area by likeness, and a step that acts in it alone
      await page.goto(studio.url)
      await begin(page, 'Marsh at sunset')
      await settled(page)
      await page.keyboard.press('s')
      await choose(page, 'Take by', 'Likeness')
      await set(page, 'How unlike', '40')
      await tap(page, [420, 160])
      await page.locator('[data-part="area-line"][data-shown]').waitFor()
      await page.keyboard.press('Escape')
      await addStep(page, 'Halftone')
      await page.keyboard.press('s')
      await settled(page)
      await page.waitForTimeout(800)
      await take('area')
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
      // groups, and what can be done to a row
      await page.goto(studio.url)
      await page.getByRole('button', { name: 'Open The keeper in graphite' }).click()
      await settled(page)
      await openRow(page, 'Shading')
      await row(page, 'Pencil lines')
        .locator('[data-part="who"]')
        .click({ modifiers: ['Control'] })
      await page.keyboard.press('Shift+G')
      await settled(page)
      await row(page, 'Shading').locator('[data-part="who"]').click({ button: 'right' })
      await page.waitForTimeout(800)
      await take('groups')
      await page.keyboard.press('Escape')
      await page.getByRole('button', { name: /^Undo: Group/ }).click()
      // another photo, placed over the first, on a paper
      await page.goto(studio.url)
      await begin(page, 'Marsh at sunset')
      await page.keyboard.press('Escape')
      await addLayer(page, 'Another picture …')
      await page.getByRole('option', { name: 'Heron on a post.jpg' }).click()
      await page.getByText('Placing: Heron on a post').first().waitFor()
      await set(page, 'Width', '760')
      await set(page, 'Turned', '-8')
      await set(page, 'Across', '1240')
      await page.getByRole('button', { name: 'Upright guide' }).click()
      await settled(page)
      await page.waitForTimeout(800)
      await take('place')
      // the sheet cropped by hand, and a sheet of panels
      await page.goto(studio.url)
      await page.getByRole('button', { name: 'Begin an artwork from The lantern keeper.jpg' }).click()
      await addStep(page, 'Oil daubs')
      await page.keyboard.press('f')
      await page.getByRole('combobox', { name: 'Ratio' }).click()
      await page.getByRole('option', { name: '5 : 4', exact: true }).click()
      const corner = (await page.getByRole('button', { name: /^Upper left corner of the sheet/ }).boundingBox())!
      await page.mouse.move(corner.x + 12, corner.y + 12)
      await page.mouse.down()
      await page.mouse.move(corner.x + 60, corner.y + 70, { steps: 5 })
      await page.mouse.up()
      await settled(page)
      await page.waitForTimeout(800)
      await take('frame')
      await page.goto(studio.url)
      await page.getByRole('button', { name: 'Begin an artwork from The lantern keeper.jpg' }).click()
      await page.getByLabel('Search steps and recipes').fill('Panel sheet')
      await page
        .getByRole('dialog', { name: 'Picker' })
        .getByRole('button', { name: /^Panel sheet/ })
        .click()
      await page.locator('[data-part="row"]', { hasText: 'Panels' }).locator('[data-part="who"]').click()
      await settled(page)
      await page.locator('[data-part="tuning"] [data-part="controls"]').evaluate((e) => e.scrollTo(0, 420))
      await page.waitForTimeout(800)
      await take('panels')
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
      // lines taken over as ink, one of them in hand
      await page.goto(studio.url)
      await page.getByRole('button', { name: 'Begin an artwork from The boathouse.jpg' }).click()
      await addStep(page, 'Ink lines')
      await settled(page)
      await page.getByRole('button', { name: 'Take over as ink' }).click()
      await page.locator('[data-part="ink"]').waitFor()
      await settled(page)
      await page.locator('[data-part="tuning"] header').getByText('Choose', { exact: true }).click()
      await tap(page, [1760, 714])
      await page.waitForTimeout(600)
      await take('ink')
      // a flow combed by hand
      await page.goto(studio.url)
      await page.getByRole('button', { name: 'Begin an artwork from The lantern keeper.jpg' }).click()
      await addStep(page, 'Hatching')
      await settled(page)
      await page.getByRole('button', { name: /^Flow: show it/ }).click()
      await settled(page)
      await stroke(page, [
        [300, 1500],
        [520, 1620],
        [760, 1480],
        [980, 1330],
        [1180, 1400],
      ])
      await page.waitForTimeout(600)
      await take('combing')
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
    })
  })
}
