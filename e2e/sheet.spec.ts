import type { Page } from '@playwright/test'
import { chain, openRow, proof, row, saved, settled } from './bench-page.ts'
import { addLayer, addStep, begin, choose, reopened, set } from './by-hand.ts'
import { brush, bytesOf, doing, downloaded, handle, meanOf, onScreen, part, pull, rubbing, stroke } from './brush.ts'
import { expect, test } from './studio.ts'

// The sheet: cropped, straightened, resized with what is on it, made of panels. By pointer, by numbers and by key; each ends in a file whose pixels are checked.

const tuning = (page: Page) => page.locator('[data-part="tuning"]')
const frame = (page: Page) => page.getByRole('button', { name: 'Frame', exact: true })
const shows = (page: Page, label: string, value: string) => expect(tuning(page).getByLabel(label, { exact: true })).toHaveValue(value)
const number = async (page: Page, label: string) => Number.parseFloat(await tuning(page).getByLabel(label, { exact: true }).inputValue())

test('a photogram: cropped to its pattern by hand, steps in another order; the crop is live and moves no pixel', async ({ enter }, info) => {
  test.setTimeout(300_000)
  const page = await enter()
  await begin(page, 'The lantern keeper')
  await addStep(page, 'Threshold')
  await addStep(page, 'Invert')
  await settled(page)
  // their orders side by side: the other one is taken
  await proof(page, 'Photo', 'Invert').click({ button: 'right' })
  await page.getByRole('menu').getByText('Proof sheet of orders', { exact: true }).click()
  const orders = page.getByRole('dialog', { name: 'Orders of the steps of Photo' })
  await expect(orders.getByRole('img')).toHaveCount(2)
  await orders.getByRole('button', { name: 'Take', exact: true }).nth(1).click()
  expect(await chain(page, 'Photo')).toEqual(['Invert', 'Threshold'])
  await settled(page)
  const whole = await downloaded(page, info, 'whole')
  await page.keyboard.press('f')
  await expect(page.getByRole('heading', { name: 'Frame', exact: true })).toBeVisible()
  await pull(page, /^Upper left corner of the sheet/, 300, 420)
  await pull(page, /^Right edge/, -260, 0)
  // to the pixel by key, and by number
  await handle(page, /^Lower edge/).press('Shift+ArrowUp')
  const [x, y] = [await number(page, 'Across'), await number(page, 'Down')]
  const [w, h] = [await number(page, 'Width'), await number(page, 'Height')]
  expect(Math.abs(x - 300)).toBeLessThan(8)
  expect(Math.abs(w - (1536 - 300 - 260))).toBeLessThan(12)
  expect(x % 1 || y % 1 || w % 1 || h % 1).toBe(0)
  await settled(page)
  const cut = await downloaded(page, info, 'cut')
  expect([cut.w, cut.h]).toEqual([w, h])
  expect(bytesOf(cut, 0, 0, w, h).equals(bytesOf(whole, x, y, w, h))).toBe(true)
  // a ratio, which is kept while an edge is dragged
  await choose(page, 'Ratio', '5 : 4')
  expect((await number(page, 'Height')) / (await number(page, 'Width'))).toBeCloseTo(1.25, 2)
  await pull(page, /^Right edge/, -100, 0)
  expect((await number(page, 'Height')) / (await number(page, 'Width'))).toBeCloseTo(1.25, 2)
  // what is too small is told, and the frame is left
  const before = await number(page, 'Width')
  await set(page, 'Width', '1')
  await expect(page.getByText(/shows nothing/)).toBeVisible()
  await shows(page, 'Width', `${before} px`)
  await page.getByRole('button', { name: 'First sheet' }).click()
  await shows(page, 'Width', '1536 px')
  // undone by name
  await page.getByRole('button', { name: /^Undo: First sheet/ }).click()
  await shows(page, 'Width', `${before} px`)
  await page.keyboard.press('Escape')
  await expect(frame(page)).toHaveAttribute('aria-pressed', 'false')
  await settled(page)
  await reopened(page)
})

test('straightened along a line, turned, and made twice as large with its painted mask', async ({ enter }, info) => {
  test.setTimeout(300_000)
  const page = await enter()
  await begin(page, 'The lantern keeper')
  await addStep(page, 'Invert')
  await openRow(page, 'Photo')
  await page.getByRole('button', { name: 'Paint it in' }).click()
  await brush(page, { breadth: 200, cover: 100, most: 100, edge: 0 })
  await doing(page, 'Let through')
  await settled(page)
  await stroke(page, rubbing(400, 500, 500, 400, 4))
  await page.keyboard.press('Escape')
  const small = await downloaded(page, info, 'small')
  // inside the mask the picture, outside it is clear
  expect(meanOf(part(small, 100, 1700, 80, 80))).toBe(0)
  await page.keyboard.press('f')
  await tuning(page).getByText('All of it', { exact: true }).click()
  await set(page, 'Width', '3072')
  await shows(page, 'Height', '3840 px')
  await settled(page)
  const large = await downloaded(page, info, 'large')
  expect([large.w, large.h]).toEqual([3072, 3840])
  expect(meanOf(part(large, 200, 3400, 160, 160))).toBe(0)
  for (const [x, y] of [
    [450, 600],
    [700, 700],
    [850, 880],
  ] as const)
    expect(Math.abs(meanOf(part(large, x * 2, y * 2, 40, 40)) - meanOf(part(small, x, y, 20, 20)))).toBeLessThan(2)
  // a line that is off by 4°, drawn over the picture
  await tuning(page).getByText('The frame', { exact: true }).click()
  await page.getByRole('button', { name: 'Level by a line' }).click()
  const at = await onScreen(page)
  const [[x0, y0], [x1, y1]] = [at([600, 1600]), at([600 + 1800, 1600 + 1800 * Math.tan((4 * Math.PI) / 180)])]
  await page.mouse.move(x0, y0)
  await page.mouse.down()
  await page.mouse.move(x1, y1, { steps: 6 })
  await expect(page.getByText(/^4\.\d° off$|^3\.9° off$/)).toBeVisible()
  await page.mouse.up()
  await expect(page.getByRole('button', { name: /^Undo: Straighten/ })).toBeVisible()
  // the frame drawn in keeps its ratio
  const [w, h] = [await number(page, 'Width'), await number(page, 'Height')]
  expect(w).toBeLessThan(2950)
  expect(w / h).toBeCloseTo(0.8, 2)
  await page.getByRole('button', { name: 'Turn the sheet right' }).click()
  await shows(page, 'Width', `${h} px`)
  await shows(page, 'Height', `${w} px`)
  await settled(page)
  await page.keyboard.press('Escape')
  await reopened(page)
})

test('a panel sheet in one go: palettes in a harmony, dealt, swapped, one locked, one taken out', async ({ enter }, info) => {
  test.setTimeout(300_000)
  const page = await enter()
  await begin(page, 'The lantern keeper')
  await addStep(page, 'Median')
  await addLayer(page, 'A panel sheet')
  await settled(page)
  // at once: two by two, each at exactly half, hues turned
  const four = await downloaded(page, info, 'four')
  expect(bytesOf(four, 0, 0, 768, 960).equals(bytesOf(four, 768, 0, 768, 960))).toBe(false)
  await set(page, 'Rows', '3')
  await set(page, 'Columns', '3')
  await choose(page, 'Set', 'In thirds')
  await choose(page, 'Colourways', '9')
  await page.getByRole('button', { name: 'Make the set' }).click()
  const cells = page.getByRole('gridcell')
  await expect(cells).toHaveCount(9)
  const named = () => cells.evaluateAll((all) => all.map((c) => c.getAttribute('title')))
  expect(new Set(await named()).size).toBe(9)
  await cells.nth(4).click()
  await tuning(page).getByRole('switch', { name: 'Locked' }).check()
  const middle = (await named())[4]
  await page.getByRole('button', { name: 'Deal anew' }).click()
  await page.getByRole('button', { name: 'Deal anew' }).click()
  expect((await named())[4]).toBe(middle)
  const order = await named()
  await cells.nth(0).dragTo(cells.nth(8))
  await expect.poll(named).toEqual([order[8], ...order.slice(1, 8), order[0]])
  await settled(page)
  const nine = await downloaded(page, info, 'nine')
  // four colours a panel, and no other
  const counts = new Map<string, number>()
  for (const v of part(nine, 4, 4, 500, 630)) counts.set(v.join(), (counts.get(v.join()) ?? 0) + 1)
  const flats = [...counts.values()].sort((a, b) => b - a).slice(0, 4)
  expect(flats.reduce((a, b) => a + b) / (500 * 630)).toBe(1)
  // taken out, a panel stands there as a layer of its own, and shows the same
  await cells.nth(0).click()
  await page.getByRole('button', { name: 'Take it out' }).click()
  await expect(row(page, 'Panel 1, 1')).toBeVisible()
  await expect(proof(page, 'Panel 1, 1', 'Gradient map')).toBeVisible()
  await settled(page)
  const out = await downloaded(page, info, 'out')
  const [a, b] = [part(nine, 20, 20, 470, 600), part(out, 20, 20, 470, 600)]
  // its colours are changed before it is made smaller now
  expect(Math.abs(meanOf(a) - meanOf(b))).toBeLessThan(2)
  expect(bytesOf(out, 530, 20, 470, 600).equals(bytesOf(nine, 530, 20, 470, 600))).toBe(true)
  await saved(page)
  await reopened(page)
})

test('the canvas doubled: panels keep their size and the sheet grows, the second one in another hue', async ({ enter }, info) => {
  test.setTimeout(240_000)
  const page = await enter()
  await begin(page, 'The lantern keeper')
  await addStep(page, 'Threshold')
  const one = await downloaded(page, info, 'one')
  await addLayer(page, 'A panel sheet')
  await set(page, 'Rows', '1')
  await tuning(page).getByText('Each panel', { exact: true }).click()
  await settled(page)
  const two = await downloaded(page, info, 'two')
  expect([two.w, two.h]).toEqual([3072, 1920])
  expect(bytesOf(two, 0, 0, 1536, 1920).equals(bytesOf(one, 0, 0, 1536, 1920))).toBe(true)
  await set(page, 'Columns', '12')
  await set(page, 'Rows', '12')
  await expect(page.getByText(/At most 400 megapixels|at most 60000/).first()).toBeVisible()
  await reopened(page)
})
