import { readFileSync } from 'node:fs'
import type { Page } from '@playwright/test'
import { difference, row, saved, settled, shown } from './bench-page.ts'
import { addStep, begin, choose, reopened, set } from './by-hand.ts'
import { doing, downloaded, onScreen, tap, type At, type Pixels } from './brush.ts'
import { expect, test } from './studio.ts'

// Pen strokes as objects.

const strokes = (page: Page) => page.locator('[data-part="ink"]')
/** Draws along places and waits until the stroke is the artwork's. */
async function draw(page: Page, places: readonly At[], now: number): Promise<void> {
  const at = await onScreen(page)
  const [first, ...rest] = places.map(at)
  await page.mouse.move(...first!)
  await page.mouse.down()
  for (const [x, y] of rest) await page.mouse.move(x, y, { steps: 6 })
  await page.mouse.up()
  await expect(strokes(page)).toHaveAttribute('data-strokes', String(now))
}
/** How dark a place of a picture is against a red layer of ink: its share of red. */
const isRed = ({ w, data }: Pixels, [x, y]: At): boolean => {
  const i = (y * w + x) * 3
  return data[i]! > 150 && data[i + 1]! < 60 && data[i + 2]! < 60
}

test('strokes are drawn, chosen, moved, bent, made broader, rubbed out and taken back; they come back in another window', async ({ enter }, info) => {
  test.setTimeout(300_000)
  const page = await enter()
  await begin(page, 'Heron on a post')
  await settled(page)
  await page.keyboard.press('k')
  await expect(page.getByRole('button', { name: 'Ink', exact: true })).toHaveAttribute('aria-pressed', 'true')
  await page.getByRole('button', { name: /^Colour, #/ }).click()
  await page.getByLabel('Colour, hex').fill('#d01010')
  await page.getByRole('button', { name: 'Colour, #d01010' }).click()
  await set(page, 'Breadth', '4')
  await set(page, 'Taper', '0')
  await draw(
    page,
    [
      [200, 300],
      [500, 300],
    ],
    1,
  )
  await draw(
    page,
    [
      [200, 900],
      [500, 900],
    ],
    2,
  )
  await draw(
    page,
    [
      [1300, 300],
      [1300, 700],
    ],
    3,
  )
  let picture = await downloaded(page, info, 'drawn')
  for (const at of [
    [350, 300],
    [350, 900],
    [1300, 500],
  ] as const)
    expect(isRed(picture, at)).toBe(true)
  await page.keyboard.press('Control+z')
  await expect(strokes(page)).toHaveAttribute('data-strokes', '2')
  await page.keyboard.press('Control+Shift+z')
  await expect(strokes(page)).toHaveAttribute('data-strokes', '3')

  await doing(page, 'Choose')
  await tap(page, [350, 300])
  await expect(page.getByRole('heading', { name: 'One stroke is chosen' })).toBeVisible()
  // by its middle grip, downwards
  const grip = page.locator('[data-grip]').nth(4)
  const box = (await grip.boundingBox())!
  const at = await onScreen(page)
  const far = at([0, 150])[1] - at([0, 0])[1]
  await page.mouse.move(box.x + box.width / 2, box.y + box.height / 2)
  await page.mouse.down()
  await page.mouse.move(box.x + box.width / 2, box.y + box.height / 2 + far, { steps: 5 })
  await page.mouse.up()
  await expect(page.getByRole('button', { name: 'Undo: Bend a stroke' })).toBeVisible()
  await tap(page, [1300, 500])
  await page.keyboard.press('Shift+ArrowLeft')
  await expect(page.getByRole('button', { name: 'Undo: Move ink' })).toBeVisible()
  await page.getByRole('button', { name: 'Broader' }).click()
  await expect(page.getByRole('button', { name: 'Undo: Broader strokes' })).toBeVisible()
  await settled(page)
  picture = await downloaded(page, info, 'bent')
  expect(isRed(picture, [350, 300])).toBe(false)
  expect(isRed(picture, [350, 450])).toBe(true)
  expect(isRed(picture, [1280, 500])).toBe(true)

  await doing(page, 'Rub out')
  await tap(page, [350, 900])
  await expect(strokes(page)).toHaveAttribute('data-strokes', '2')
  await doing(page, 'Choose')
  await tap(page, [1280, 500])
  await page.keyboard.press('Delete')
  await expect(strokes(page)).toHaveAttribute('data-strokes', '1')
  await settled(page)
  const last = await shown(page)
  await page.keyboard.press('Escape')
  await reopened(page)
  await settled(page)
  expect(difference(last, await shown(page))).toBeLessThan(0.01)
  picture = await downloaded(page, info, 'left')
  expect(isRed(picture, [350, 450])).toBe(true)
  expect(isRed(picture, [350, 900])).toBe(false)
})

test('lines of a technique are taken over as ink and mended by hand, and go out as lines', async ({ enter }, info) => {
  test.setTimeout(300_000)
  const page = await enter()
  await begin(page, 'The boathouse')
  await addStep(page, 'Ink lines')
  await set(page, 'Blacks', '0')
  await settled(page)
  const before = await downloaded(page, info, 'technique')
  await page.getByRole('button', { name: 'Take over as ink' }).click()
  await expect(row(page, 'Ink lines, as ink').first()).toBeVisible()
  await expect(strokes(page)).toHaveAttribute('data-strokes', /^\d{2,}$/)
  const had = Number(await strokes(page).getAttribute('data-strokes'))
  await settled(page)
  // the same picture, drawn by strokes
  const after = await downloaded(page, info, 'ink')
  let apart = 0
  for (let i = 0; i < after.data.length; i++) apart += Math.abs(after.data[i]! - before.data[i]!)
  expect(apart / after.data.length).toBeLessThan(1.5)
  await doing(page, 'Choose')
  await page.getByRole('button', { name: 'Choose all' }).click()
  await expect(page.getByRole('heading', { name: `${had} strokes are chosen` })).toBeVisible()
  await page.getByRole('button', { name: 'Take out' }).click()
  await expect(strokes(page)).toHaveAttribute('data-strokes', '0')
  await page.keyboard.press('Control+z')
  await expect(strokes(page)).toHaveAttribute('data-strokes', String(had))
  await saved(page)
  await page.getByRole('button', { name: 'Render', exact: true }).click()
  const dialog = page.getByRole('dialog', { name: 'Render at full size' })
  await dialog.getByText('Lines, SVG').click()
  await dialog.getByRole('button', { name: 'Render', exact: true }).click()
  await expect(dialog.locator('[data-render-state="done"]')).toBeVisible({ timeout: 60_000 })
  const coming = page.waitForEvent('download')
  await dialog.getByRole('link', { name: 'Download' }).click()
  const path = info.outputPath('ink.svg')
  await (await coming).saveAs(path)
  const svg = readFileSync(path, 'utf8')
  expect(svg).toContain('<title>Ink lines, as ink / Ink lines, as ink: Ink</title>')
  expect(svg.match(/<path /g)).toHaveLength(had)
})

test('a file of lines is brought in at its size; one that is none is told', async ({ enter }, info) => {
  const page = await enter()
  await begin(page, 'Heron on a post')
  await settled(page)
  await page.keyboard.press('k')
  // a tenth of the sheet's width from its left, 1 mm broad
  const mm = (1920 / 164) * 25.4
  const svg = `<svg xmlns="http://www.w3.org/2000/svg" width="${mm}mm" height="100mm" viewBox="0 0 ${mm} 100"><g transform="translate(10 0)"><path d="M${mm / 10 - 10} 20v60" stroke="#000" stroke-width="2"/></g><text>x</text></svg>`
  await page.locator('[data-part="tuning"] input[type="file"]').setInputFiles({ name: 'mast.svg', mimeType: 'image/svg+xml', buffer: Buffer.from(svg) })
  await expect(strokes(page)).toHaveAttribute('data-strokes', '1')
  await expect(page.getByRole('button', { name: 'Undo: Bring in “mast.svg”' })).toBeVisible()
  await settled(page)
  const picture = await downloaded(page, info, 'mast')
  const dark = ([x, y]: At) => picture.data[(y * picture.w + x) * 3]! < 60
  expect(dark([192, 320])).toBe(true)
  expect(dark([192 - 12, 320])).toBe(false)
  await page.locator('[data-part="tuning"] input[type="file"]').setInputFiles({ name: 'none.svg', mimeType: 'image/svg+xml', buffer: Buffer.from('hello') })
  await expect(page.getByText('This file of lines cannot be read: it is no SVG. Nothing was changed.')).toBeVisible()
})

test('blacks come along as a fill of their own; a rectangle chooses strokes, which grow thinner with depth; keys go from one to the next', async ({
  enter,
}, info) => {
  test.setTimeout(300_000)
  const page = await enter()
  await begin(page, 'The boathouse')
  await addStep(page, 'Ink lines')
  await settled(page)
  const before = await downloaded(page, info, 'technique')
  await page.getByRole('button', { name: 'Take over as ink' }).click()
  await expect(row(page, 'Ink lines, as ink').first()).toBeVisible()
  await expect(strokes(page)).toHaveAttribute('data-strokes', /^\d{2,}$/)
  await settled(page)
  const after = await downloaded(page, info, 'taken')
  let apart = 0
  let black = 0
  for (let i = 0; i < after.data.length; i++) {
    apart += Math.abs(after.data[i]! - before.data[i]!)
    if (before.data[i]! < 40) black++
  }
  expect(black / after.data.length).toBeGreaterThan(0.02)
  expect(apart / after.data.length).toBeLessThan(1.5)

  await doing(page, 'Choose')
  await strokes(page).focus()
  await page.keyboard.press('PageDown')
  await expect(page.getByRole('heading', { name: 'One stroke is chosen' })).toBeVisible()
  // from a corner of the sheet where no line lies, round all of it
  const at = await onScreen(page)
  await page.mouse.move(...at([2, 2]))
  await page.mouse.down()
  await page.mouse.move(...at([1900, 1270]), { steps: 4 })
  await page.mouse.up()
  const had = Number(await strokes(page).getAttribute('data-strokes'))
  await expect(page.getByRole('heading', { name: /^\d\d+ strokes are chosen/ })).toBeVisible()
  expect(parseInt((await page.getByRole('heading', { name: /strokes are chosen/ }).textContent())!)).toBeGreaterThan(0.9 * had)
  await choose(page, 'Thinner with depth', 'Far is above')
  await set(page, 'Left of it there', '10')
  await page.getByRole('button', { name: 'Thin with depth' }).click()
  await expect(page.getByRole('button', { name: 'Undo: Thinner with depth' })).toBeVisible()
  await settled(page)
  const deep = await downloaded(page, info, 'deep')
  // ink that is gone, of the ink that was there, above and below
  const lost = (from: number, to: number) => {
    let [was, is] = [0, 0]
    for (let i = Math.floor(from * before.h) * before.w * 3; i < Math.floor(to * before.h) * before.w * 3; i++) {
      was += 255 - after.data[i]!
      is += 255 - deep.data[i]!
    }
    return 1 - is / was
  }
  expect(lost(0, 0.3)).toBeGreaterThan(lost(0.7, 1) + 0.1)
})

test.describe('by touch and pen', () => {
  test.use({ hasTouch: true })

  test('a finger draws ink and takes areas; a pen’s pressure makes strokes broader', async ({ enter }, info) => {
    test.setTimeout(240_000)
    const page = await enter()
    await begin(page, 'Heron on a post')
    await settled(page)
    await page.keyboard.press('k')
    await page.getByRole('button', { name: /^Colour, #/ }).click()
    await page.getByLabel('Colour, hex').fill('#d01010')
    await page.getByRole('button', { name: 'Colour, #d01010' }).click()
    await set(page, 'Breadth', '6')
    await set(page, 'Taper', '0')
    await set(page, 'Pressure', '90')
    const client = await page.context().newCDPSession(page)
    const at = await onScreen(page)
    const touch = (type: 'touchStart' | 'touchMove' | 'touchEnd', ...points: At[]) =>
      client.send('Input.dispatchTouchEvent', { type, touchPoints: points.map((p, id) => ({ x: at(p)[0], y: at(p)[1], id })) })
    await touch('touchStart', [200, 300])
    for (let i = 1; i <= 8; i++) await touch('touchMove', [200 + i * 40, 300])
    await touch('touchEnd')
    await expect(strokes(page)).toHaveAttribute('data-strokes', '1')
    const pen = (type: 'mousePressed' | 'mouseMoved' | 'mouseReleased', p: At, force: number) =>
      client.send('Input.dispatchMouseEvent', {
        type,
        x: at(p)[0],
        y: at(p)[1],
        button: 'left',
        buttons: type === 'mouseReleased' ? 0 : 1,
        pointerType: 'pen',
        force,
        clickCount: 1,
      })
    await pen('mousePressed', [200, 900], 0.1)
    for (let i = 1; i <= 24; i++) await pen('mouseMoved', [200 + i * 20, 900], 0.1 + (0.9 * i) / 24)
    await pen('mouseReleased', [680, 900], 0)
    await expect(strokes(page)).toHaveAttribute('data-strokes', '2')
    await settled(page)
    const picture = await downloaded(page, info, 'drawn')
    const breadth = (x: number, y: number) => Array.from({ length: 80 }, (_, j) => isRed(picture, [x, y - 40 + j])).filter(Boolean).length
    expect(breadth(400, 300)).toBeGreaterThan(20)
    expect(breadth(600, 900)).toBeGreaterThan(2 * breadth(260, 900))
    await page.keyboard.press('Escape')
    await page.keyboard.press('s')
    await touch('touchStart', [300, 300])
    for (let i = 1; i <= 6; i++) await touch('touchMove', [300 + i * 60, 300 + i * 50])
    await touch('touchEnd')
    await expect(page.locator('[data-part="area-line"]')).toHaveAttribute('data-shown', 'true')
    await expect(page.getByRole('button', { name: 'Undo: Area, a rectangle' })).toBeVisible()
  })
})
