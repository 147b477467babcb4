import type { Page } from '@playwright/test'
import { saved, settled } from './bench-page.ts'
import { addStep, begin, choose, reopened, set } from './by-hand.ts'
import { apart, brush, doing, downloaded, part, rubbing, stroke, tap, type At, type Pixels } from './brush.ts'
import { expect, test } from './studio.ts'

// Areas: where hands and new steps act.

const line = (page: Page) => page.locator('[data-part="area-line"]')
const undo = (page: Page, what: string) => page.getByRole('button', { name: `Undo: ${what}` })
/** Waits until an area was taken, as the history calls it. */
const taken = async (page: Page, what: string) => {
  await expect(undo(page, what)).toBeVisible()
  await expect(line(page)).toHaveAttribute('data-shown', 'true')
}
/** Tones of a picture's pixels, BT.709, 0…255. */
const tones = ({ w, h, data }: Pixels) =>
  Float32Array.from({ length: w * h }, (_, i) => (data[i * 3]! * 13933 + data[i * 3 + 1]! * 46871 + data[i * 3 + 2]! * 4732) / 65536)

test('what is as light as a place becomes a mask; it is kept, let go of, and found again', async ({ enter }, info) => {
  test.setTimeout(300_000)
  const page = await enter()
  await begin(page, 'Heron on a post')
  await settled(page)
  const before = await downloaded(page, info, 'photo')
  await page.keyboard.press('s')
  await choose(page, 'Take by', 'Likeness')
  await page.getByText('Tone', { exact: true }).click()
  await set(page, 'How unlike', '30')
  await page.getByRole('switch', { name: 'Only where it hangs together' }).press('Space')
  const at: At = [300, 200]
  await tap(page, at)
  await taken(page, 'Area by tone')
  // another bound takes the same place anew, in the same entry of the history
  await set(page, 'How unlike', '18')
  await expect(undo(page, 'Area by tone')).toBeVisible()
  await page.getByLabel('Name for this area').fill('Sky')
  await page.getByRole('button', { name: 'Keep it' }).click()
  await page.getByRole('button', { name: 'As the mask of …' }).click()
  await page.getByRole('menuitem', { name: 'The layer', exact: true }).click()
  await page.getByRole('button', { name: 'Let go' }).click()
  await expect(line(page)).toHaveCount(0)
  await page.keyboard.press('Escape')
  await settled(page)
  const masked = await downloaded(page, info, 'masked', { onWhite: true })
  // what is as light as the place stays; the rest is blank paper
  const tone = tones(before)
  const mean = [-1, 0, 1].flatMap((y) => [-1, 0, 1].map((x) => tone[(at[1] + y) * before.w + at[0] + x]!)).reduce((a, b) => a + b, 0) / 9
  let [inside, wrong] = [0, 0]
  for (let i = 0; i < tone.length; i++) {
    const off = Math.abs(tone[i]! - mean)
    if (off > 17 && off < 23.5) continue
    const blank = masked.data[i * 3]! > 253 && masked.data[i * 3 + 1]! > 253 && masked.data[i * 3 + 2]! > 253
    const same = [0, 1, 2].every((c) => Math.abs(masked.data[i * 3 + c]! - before.data[i * 3 + c]!) <= 2)
    if (off <= 17) inside++
    if (off <= 17 ? !same : !blank) wrong++
  }
  expect(inside).toBeGreaterThan(tone.length / 50)
  expect(wrong / tone.length).toBeLessThan(1e-4)

  await saved(page)
  await reopened(page)
  await settled(page)
  await page.keyboard.press('s')
  await page.getByRole('button', { name: 'Take the area Sky' }).click()
  await taken(page, 'Area “Sky”')
  await page.getByRole('button', { name: 'Forget the area Sky' }).click()
  await expect(page.getByRole('button', { name: 'Take the area Sky' })).toHaveCount(0)
  // an area of nothing is told, and the one there is stays
  await page.getByText('Take away', { exact: true }).click()
  await page.getByRole('button', { name: 'All of the sheet' }).click()
  await expect(page.getByText('That would leave no area at all, so nothing was changed.')).toBeVisible()
  await expect(line(page)).toHaveCount(1)
})

test('a tone is erased softly inside a polygon, and a new step acts in it alone', async ({ enter }, info) => {
  test.setTimeout(300_000)
  const page = await enter()
  await begin(page, 'The boathouse')
  await settled(page)
  const before = await downloaded(page, info, 'photo')
  // a corner by a corner, closed by Enter; softened
  await page.keyboard.press('s')
  await choose(page, 'Take by', 'Corners')
  const corners: At[] = [
    [300, 200],
    [1100, 250],
    [1000, 800],
    [350, 700],
  ]
  for (const at of corners) await tap(page, at)
  await page.keyboard.press('Enter')
  await taken(page, 'Area by its corners')
  await set(page, 'Softened', '1')
  await page.getByRole('button', { name: 'Change its edge' }).click()
  await taken(page, 'Edge of the area softened')
  await page.keyboard.press('Escape')
  await addStep(page, 'Invert')
  await settled(page)
  const inverted = await downloaded(page, info, 'inverted')
  const [x, y] = [650, 480]
  expect(
    apart(
      part(inverted, x, y, 40, 40),
      part(before, x, y, 40, 40).map((row) => row.map((v) => 255 - v)),
    ),
  ).toBeLessThan(1.5)
  expect(apart(part(inverted, 60, 480, 60, 60), part(before, 60, 480, 60, 60))).toBeLessThan(0.5)
  await page.keyboard.press('Control+z')

  // the layer's mask is rubbed away over all of the picture: it goes inside the area alone, softly at its edge
  await page.locator('[data-part="row"]').getByText('Photo', { exact: true }).first().click()
  await page.getByRole('button', { name: 'Paint it away' }).click()
  await doing(page, 'Take away')
  await brush(page, { breadth: 500, cover: 100, most: 100, edge: 100 })
  await stroke(page, rubbing(150, 150, before.w - 300, before.h - 300, 5))
  await settled(page)
  const erased = await downloaded(page, info, 'erased', { onWhite: true })
  const white = (px: readonly (readonly number[])[]) => px.flat().every((v) => v > 252)
  expect(white(part(erased, x, y, 60, 60))).toBe(true)
  expect(apart(part(erased, 60, 480, 60, 60), part(before, 60, 480, 60, 60))).toBeLessThan(0.5)
  // across the upper side of the polygon, which lies at y = 225 there: from the photo to white over some pixels
  const share = (row: number) => {
    const was = part(before, 690, row, 20, 1).flat()
    const is = part(erased, 690, row, 20, 1).flat()
    const [a, b] = [was, is].map((v) => v.reduce((sum, c) => sum + (255 - c), 0))
    return 1 - b! / a!
  }
  const across = [-16, -6, 0, 6, 16].map((d) => share(225 + d))
  for (let i = 1; i < across.length; i++) expect(across[i]!).toBeGreaterThanOrEqual(across[i - 1]! - 0.02)
  expect(across[0]!).toBeLessThan(0.1)
  expect(across[4]!).toBeGreaterThan(0.9)
  expect(across[2]!).toBeGreaterThan(0.25)
  expect(across[2]!).toBeLessThan(0.75)
  await saved(page)
})

test('corners are taken back one by one, and given up by Escape, which leaves the hand where it is', async ({ enter }) => {
  const page = await enter()
  await begin(page, 'Heron on a post')
  await settled(page)
  await page.keyboard.press('s')
  await choose(page, 'Take by', 'Corners')
  for (const at of [
    [300, 200],
    [800, 250],
    [700, 900],
  ] as const)
    await tap(page, at)
  const corners = page.locator('[data-part="area"] circle')
  // a dark and a light one each
  await expect(corners).toHaveCount(6)
  await page.keyboard.press('Backspace')
  await expect(corners).toHaveCount(4)
  await page.keyboard.press('Escape')
  await expect(corners).toHaveCount(0)
  await expect(page.getByRole('button', { name: 'Area', exact: true })).toHaveAttribute('aria-pressed', 'true')
  await page.keyboard.press('Escape')
  await expect(page.getByRole('button', { name: 'Area', exact: true })).toHaveAttribute('aria-pressed', 'false')
  // by numbers, without a pointer
  await page.keyboard.press('s')
  await choose(page, 'Take by', 'Ellipse')
  await page.getByLabel('Width').fill('300')
  await page.getByLabel('Width').press('Enter')
  await page.getByRole('button', { name: 'Take it by these numbers' }).press('Enter')
  await taken(page, 'Area, an ellipse')
})
