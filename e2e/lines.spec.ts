import { difference, settled, shown } from './bench-page.ts'
import { addStep, begin, choose, set } from './by-hand.ts'
import { downloaded, meanOf, part } from './brush.ts'
import { expect, test } from './studio.ts'

// Techniques that are laid out before they are drawn, on the bench.

test('a portrait is hatched: tools, an ink that only draws, and a plan laid while the view moves', async ({ enter }, info) => {
  test.setTimeout(150_000)
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
