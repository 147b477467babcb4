import type { Page } from '@playwright/test'
import { readFileSync } from 'node:fs'
import { join } from 'node:path'
import sharp from 'sharp'
import { openRow, row, saved, settled } from './bench-page.ts'
import { addLayer, addStep, begin, choose, deed, reopened, set, values } from './by-hand.ts'
import { brush, downloaded, handle, meanOf, onScreen, part, pull, rubbing, stroke, type At, type Pixels } from './brush.ts'
import { expect, root, test } from './studio.ts'

// Layers laid elsewhere, by pointer, by numbers and by key, as an illustrator would; each ends in a file whose pixels are checked.

const who = (page: Page, name: string) => row(page, name).locator('[data-part="who"]')
const place = (page: Page) => page.getByRole('button', { name: 'Place', exact: true })
/** Drags from one place of the artwork to another. */
async function drag(page: Page, from: At, to: At, key?: string): Promise<void> {
  const at = await onScreen(page)
  const [[x0, y0], [x1, y1]] = [at(from), at(to)]
  if (key) await page.keyboard.down(key)
  await page.mouse.move(x0, y0)
  await page.mouse.down()
  await page.mouse.move((x0 + x1) / 2, (y0 + y1) / 2, { steps: 5 })
  await page.mouse.move(x1, y1, { steps: 5 })
  await page.mouse.up()
  if (key) await page.keyboard.up(key)
}
const numbers = (page: Page) => page.locator('[data-part="tuning"]')
const shows = async (page: Page, label: string, value: string) => expect(numbers(page).getByLabel(label, { exact: true })).toHaveValue(value)
/** The largest difference of a channel between two parts. */
const furthest = (a: readonly (readonly number[])[], b: readonly (readonly number[])[]): number => {
  let most = 0
  a.forEach((v, i) => v.forEach((c, k) => (most = Math.max(most, Math.abs(c - b[i]![k]!)))))
  return most
}
const same = (p: Pixels, [x0, y0]: At, [x1, y1]: At, w: number, h: number): number => furthest(part(p, x0, y0, w, h), part(p, x1, y1, w, h))

test('four panels: one picture, three live copies at exactly half, edge to edge, each in its own colour', async ({ enter }, info) => {
  test.setTimeout(300_000)
  const page = await enter()
  await begin(page, 'The lantern keeper')
  await addStep(page, 'Threshold')
  await settled(page)
  await openRow(page, 'Photo')
  await place(page).click()
  // 50 % is typed once; the pivot stays in the middle, so it is then aligned
  await numbers(page).getByText('%', { exact: true }).click()
  await set(page, 'Width', '50')
  await page.getByRole('button', { name: 'Align: left edges' }).click()
  await page.getByRole('button', { name: 'Align: upper edges' }).click()
  await numbers(page).getByText('px', { exact: true }).click()
  await shows(page, 'Across', '384 px')
  await shows(page, 'Down', '480 px')
  for (const [n, to] of [
    ['Photo, live', [1152, 480]],
    ['Photo, live 2', [384, 1440]],
    ['Photo, live 3', [1152, 1440]],
  ] as const) {
    await openRow(page, 'Photo')
    await deed(page, 'Photo', 'Duplicate, live')
    await openRow(page, 'Photo, live')
    if (n !== 'Photo, live') {
      await page.keyboard.press('Escape')
      await numbers(page).getByLabel('Name').fill(n)
      await numbers(page).getByLabel('Name').press('Enter')
      await place(page).click()
    }
    if (n === 'Photo, live') {
      await page.keyboard.press('Escape')
      await numbers(page).getByLabel('Name').fill('Right')
      await numbers(page).getByLabel('Name').press('Enter')
      await place(page).click()
      // by pointer: it is drawn to the middle of the sheet and to its upper edge
      await drag(page, [380, 700], [380 + 760, 700 + 6])
    } else {
      await set(page, 'Across', String(to[0]))
      await set(page, 'Down', String(to[1]))
    }
    await shows(page, 'Across', `${to[0]} px`)
    await shows(page, 'Down', `${to[1]} px`)
    await settled(page)
  }
  await page.keyboard.press('Escape')
  // a colour of its own for one of them
  await openRow(page, 'Right')
  await addStep(page, 'Dye')
  await settled(page)
  await saved(page)
  const made = await downloaded(page, info, 'panels')
  // live copies are equal, to the last pixel; the dyed one is not
  expect(same(made, [40, 30], [40, 30 + 960], 700, 900)).toBe(0)
  expect(same(made, [40, 30], [40 + 768, 30 + 960], 700, 900)).toBe(0)
  expect(same(made, [40, 30], [40 + 768, 30], 700, 900)).toBeGreaterThan(20)
  // edge to edge: no seam of white or grey where they meet
  for (const [x, y] of [
    [766, 300],
    [768, 1200],
    [300, 958],
    [1200, 960],
  ] as const) {
    const column = part(made, x, y, 2, 2)
    expect(column.every((v) => v.length === 3)).toBe(true)
  }
  // half of a threshold is halved: black, white, and the greys of two by two pixels only
  const greys = new Set(part(made, 100, 100, 500, 700).map((v) => v[0]!))
  expect(greys.size).toBeLessThanOrEqual(6)
  const before = await values(page)
  await reopened(page)
  expect(await values(page)).toEqual(before)
})

test('a second photo is dropped, scaled and turned, the one behind it blurred', async ({ enter }, info) => {
  test.setTimeout(240_000)
  const page = await enter()
  await begin(page, 'The lantern keeper')
  await page.keyboard.press('Escape')
  const bytes = readFileSync(join(root, 'demo/photos/heron-on-post.jpg')).toString('base64')
  await page.evaluate((b64) => {
    const data = new DataTransfer()
    data.items.add(new File([Uint8Array.from(atob(b64), (c) => c.charCodeAt(0))], 'A heron.jpg', { type: 'image/jpeg' }))
    window.dispatchEvent(new DragEvent('drop', { dataTransfer: data, bubbles: true, cancelable: true }))
  }, bytes)
  // fitted into the sheet, and in hand
  await expect(page.getByText('Placing: Heron on a post').first()).toBeVisible()
  await shows(page, 'Width', '1536 px')
  await shows(page, 'Height', '1024 px')
  await settled(page)
  await pull(page, /^Lower right corner/, -600, -400)
  await shows(page, 'Keeps its ratio', 'on')
  let wide = 0
  await expect(async () => {
    const [w, h] = await Promise.all(['Width', 'Height'].map(async (l) => Number.parseFloat(await numbers(page).getByLabel(l, { exact: true }).inputValue())))
    expect(w).toBeGreaterThan(850)
    expect(w).toBeLessThan(1000)
    expect(w! / h!).toBeCloseTo(1.5, 2)
    wide = w!
  }).toPass()
  await set(page, 'Turned', '-12')
  await shows(page, 'Turned', '-12°')
  await set(page, 'Across', '1000')
  await set(page, 'Down', '500')
  // arrow keys move it by a pixel, by ten with Shift
  await handle(page, /^Heron on a post; drag it/).focus()
  await page.keyboard.press('ArrowRight')
  await page.keyboard.press('Shift+ArrowDown')
  await shows(page, 'Across', '1001 px')
  await shows(page, 'Down', '510 px')
  await page.keyboard.press('Escape')
  await openRow(page, 'Photo')
  await addStep(page, 'Gaussian blur')
  await set(page, 'Sigma', '20')
  await settled(page)
  const made = await downloaded(page, info, 'two')
  // the heron is where the numbers say: its own pixels, scaled about its middle, turned by −12°
  const own = sharp(join(root, 'demo/photos/heron-on-post.jpg'))
  const { width = 0, height = 0 } = await own.metadata()
  const heron = await own.removeAlpha().raw().toBuffer()
  const scale = wide / width
  for (const [dx, dy] of [
    [-0.35, -0.3],
    [0.3, -0.2],
    [0.35, 0.35],
  ] as const) {
    const [u, v] = [dx * width, dy * height]
    const turn = (-12 * Math.PI) / 180
    const [x, y] = [1001 + scale * (u * Math.cos(turn) - v * Math.sin(turn)), 510 + scale * (u * Math.sin(turn) + v * Math.cos(turn))]
    const around = (at: (i: number, j: number) => number[]) => meanOf(Array.from({ length: 49 }, (_, i) => at((i % 7) - 3, Math.floor(i / 7) - 3)))
    const want = around((i, j) => {
      const at = ((Math.round(height / 2 + v) + Math.round(j / scale)) * width + Math.round(width / 2 + u) + Math.round(i / scale)) * 3
      return [...heron.subarray(at, at + 3)]
    })
    const got = around((i, j) => part(made, Math.round(x) + i, Math.round(y) + j, 1, 1)[0]!)
    expect(Math.abs(got - want)).toBeLessThan(6)
  }
  await page.getByRole('button', { name: /^Undo: / }).click()
  await page.getByRole('button', { name: /^Redo/ }).click()
  // pasted, it is a layer too
  await page.evaluate((b64) => {
    const clipboardData = new DataTransfer()
    clipboardData.items.add(new File([Uint8Array.from(atob(b64), (c) => c.charCodeAt(0))], 'image.png', { type: 'image/jpeg' }))
    window.dispatchEvent(new ClipboardEvent('paste', { clipboardData, bubbles: true, cancelable: true }))
  }, bytes)
  await expect(row(page, 'Heron on a post')).toHaveCount(2)
  await page.getByRole('button', { name: /^Undo: Add layer “Heron on a post”/ }).click()
  await expect(row(page, 'Heron on a post')).toHaveCount(1)
  await page.keyboard.press('Escape')
  await saved(page)
  await reopened(page)
  await openRow(page, 'Heron on a post')
  await place(page).click()
  await shows(page, 'Turned', '-12°')
  await shows(page, 'Across', '1001 px')
})

test('three layers, three techniques, each in its mode; one flattened copy on top, and a paper under it', async ({ enter }, info) => {
  test.setTimeout(300_000)
  const page = await enter()
  await begin(page, 'The lantern keeper')
  await addStep(page, 'Flat patches')
  for (const [name, title, mode] of [
    ['Two', 'Posterize', 'Screen'],
    ['Three', 'Median', 'Soft light'],
  ] as const) {
    await addLayer(page, 'The photo')
    await numbers(page).getByLabel('Name').fill(name)
    await numbers(page).getByLabel('Name').press('Enter')
    await addStep(page, title)
    await openRow(page, name)
    await who(page, name).click()
    await choose(page, 'Blend', mode)
  }
  await settled(page)
  const layered = await downloaded(page, info, 'layered')
  await deed(page, 'Three', 'Flattened copy on top')
  await expect(row(page, 'Flattened copy')).toBeVisible({ timeout: 30_000 })
  await settled(page)
  const flat = await downloaded(page, info, 'flat')
  expect(furthest(part(layered, 400, 600, 500, 500), part(flat, 400, 600, 500, 500))).toBeLessThanOrEqual(1)
  // a paper over it lets it through
  await openRow(page, 'Flattened copy')
  await page.getByRole('button', { name: 'Layer', exact: true }).click()
  await page.getByRole('menuitem', { name: 'A paper' }).hover()
  await page.getByRole('menuitem', { name: 'Grey board', exact: true }).click()
  await settled(page)
  const onPaper = await downloaded(page, info, 'paper')
  expect(meanOf(part(onPaper, 400, 600, 300, 300))).toBeLessThan(meanOf(part(flat, 400, 600, 300, 300)) - 5)
  await saved(page)
})

test('a technique painted in rides with its layer when that is moved and turned; a mask that stays does not', async ({ enter }, info) => {
  test.setTimeout(300_000)
  const page = await enter()
  await begin(page, 'The lantern keeper')
  await page.keyboard.press('Escape')
  await addLayer(page, 'A fill …')
  await page.getByLabel('Colour of the fill').fill('#ffee00')
  await page.getByRole('button', { name: 'Add fill' }).click()
  await page.getByRole('button', { name: 'Paint it in' }).click()
  await brush(page, { breadth: 160, cover: 100, edge: 100 })
  await stroke(page, rubbing(500, 500, 300, 200))
  const yellow = (p: Pixels, x: number, y: number) => {
    const [r, g, bl] = part(p, x, y, 1, 1)[0]!
    return r! > 200 && g! > 180 && bl! < 90
  }
  const painted = await downloaded(page, info, 'painted')
  expect(yellow(painted, 650, 600)).toBe(true)
  expect(yellow(painted, 1100, 600)).toBe(false)
  // moved by numbers: what was painted goes with it
  await place(page).click()
  await set(page, 'Across', String(768 + 450))
  await settled(page)
  const moved = await downloaded(page, info, 'moved')
  expect(yellow(moved, 1100, 600)).toBe(true)
  expect(yellow(moved, 520, 600)).toBe(false)
  // stays: the fill moves under it
  await page.keyboard.press('Escape')
  await page.getByRole('button', { name: /^Undo: Move “Fill”/ }).click()
  await openRow(page, 'Fill')
  await page.getByRole('group', { name: 'Mask' }).getByRole('button', { name: 'Paint', exact: true }).click()
  const rides = page.getByLabel('Rides with the layer')
  await rides.click()
  await page.keyboard.press('Escape')
  await place(page).click()
  await set(page, 'Across', String(768 + 450))
  await settled(page)
  const stays = await downloaded(page, info, 'stays')
  expect(yellow(stays, 650, 600)).toBe(true)
  expect(yellow(stays, 1100, 600)).toBe(false)
  // back to riding, turned, and painted on where it lies now: the stroke is where the hand is
  await page.keyboard.press('Escape')
  await page.getByRole('button', { name: /^Undo: Move “Fill”/ }).click()
  await page.getByRole('button', { name: /^Undo: Mask of “Fill” stays/ }).click()
  await openRow(page, 'Fill')
  await place(page).click()
  await page.getByRole('button', { name: 'Turn right by a quarter' }).click()
  await settled(page)
  await page.getByRole('button', { name: 'Paint', exact: true }).first().click()
  await stroke(page, [
    [300, 1300],
    [700, 1350],
  ])
  const turned = await downloaded(page, info, 'turned')
  // what was at (650, 600) is a quarter further round the middle (768, 960)
  expect(yellow(turned, 768 + 360, 960 - 118)).toBe(true)
  expect(yellow(turned, 650, 600)).toBe(false)
  expect(yellow(turned, 500, 1325)).toBe(true)
  expect(yellow(turned, 500, 1500)).toBe(false)
  await saved(page)
})

test('guides, perspective, several at once; what cannot be is told in a sentence', async ({ enter }) => {
  test.setTimeout(240_000)
  const page = await enter()
  await begin(page, 'The lantern keeper')
  await page.keyboard.press('Escape')
  await page.keyboard.press('l')
  await expect(numbers(page).getByRole('heading', { name: 'Place' })).toBeVisible()
  // a guide out of the left ruler, moved by key, taken away
  const easel = (await page.locator('[data-part="easel"]').boundingBox())!
  const at = await onScreen(page)
  const [gx] = at([420, 0])
  await page.mouse.move(easel.x + 8, easel.y + 300)
  await page.mouse.down()
  await page.mouse.move(gx, easel.y + 300, { steps: 6 })
  await page.mouse.up()
  const guide = page.getByRole('button', { name: /^Guide at/ })
  await expect(guide).toHaveCount(1)
  const was = Number(/at (\d+) px/.exec((await guide.getAttribute('aria-label'))!)![1])
  expect(Math.abs(was - 420)).toBeLessThan(4)
  await guide.focus()
  await page.keyboard.press('Shift+ArrowRight')
  await expect(page.getByRole('button', { name: `Guide at ${was + 10} px across; drag it, Delete takes it away` })).toBeVisible()
  // a layer is drawn to it
  await page.getByRole('button', { name: 'Half', exact: true }).click()
  await settled(page)
  await drag(page, [420, 1300], [420 + was + 10 - 384 + 4, 1300])
  await shows(page, 'Across', `${was + 10 + 384} px`)
  // nothing wide is no width
  await set(page, 'Width', '0')
  await expect(page.getByText(/at 0 px it could not be seen or taken hold of again/)).toBeVisible()
  await shows(page, 'Width', '768 px')
  // in perspective, corner by corner; a corner through its neighbours is told
  await page.getByText('A corner', { exact: true }).click()
  await pull(page, /^Upper right corner/, -60, 90)
  await expect(page.getByRole('button', { name: 'Without its perspective' })).toBeVisible()
  await pull(page, /^Upper left corner/, 900, 900)
  await expect(page.getByText(/A corner cannot pass a side or its neighbour/).first()).toBeVisible()
  await page.getByRole('button', { name: 'Without its perspective' }).click()
  await expect(numbers(page).getByLabel('Slanted', { exact: true })).toBeVisible()
  await page.getByRole('button', { name: 'Where it was' }).click()
  await shows(page, 'Across', '768 px')
  // two at once: aligned among each other
  await page.keyboard.press('Escape')
  await deed(page, 'Photo', 'Duplicate')
  await openRow(page, 'Photo copy')
  await place(page).click()
  await page.getByRole('button', { name: 'Half', exact: true }).click()
  await who(page, 'Photo').click({ modifiers: ['Control'] })
  await expect(page.getByText('Placing: 2 layers').first()).toBeVisible()
  await page.getByRole('button', { name: 'Align: right edges' }).click()
  await expect(page.getByRole('button', { name: /^Undo: Align 2 layers/ })).toBeVisible()
  await page.keyboard.press('Escape')
  await openRow(page, 'Photo copy')
  await place(page).click()
  await shows(page, 'Across', '1152 px')
  // locked, it says so and offers the way
  await page.keyboard.press('Escape')
  await deed(page, 'Photo copy', 'Locked')
  await openRow(page, 'Photo copy')
  await place(page).click()
  await expect(page.getByText('Photo copy is locked.')).toBeVisible()
  await page.getByRole('button', { name: 'Unlock it' }).click()
  await expect(page.getByText('Photo copy is locked.')).toBeHidden()
})

test('a poster: steps with blends of their own, two techniques mixed in from layers that are hidden, an old paper over it', async ({ enter }, info) => {
  test.setTimeout(300_000)
  const page = await enter()
  await begin(page, 'The lantern keeper')
  await addStep(page, 'Shadows and highlights')
  await addStep(page, 'Oil daubs')
  await addStep(page, 'Unsharp mask')
  await settled(page)
  // another layer makes what is mixed in, and is hidden
  await addLayer(page, 'The photo')
  await numbers(page).getByLabel('Name').fill('Broad')
  await numbers(page).getByLabel('Name').press('Enter')
  await addStep(page, 'Flat patches')
  await deed(page, 'Broad', 'Shown')
  await openRow(page, 'Photo')
  const before = await downloaded(page, info, 'before')
  await addStep(page, 'Mix in')
  // it reads the layer that there is; by soft light, 40 %
  await expect(numbers(page).getByRole('combobox', { name: 'Picture', exact: true })).toHaveValue('Broad')
  await choose(page, 'Blend', 'Soft light')
  await set(page, 'Opacity', '40')
  await settled(page)
  const mixed = await downloaded(page, info, 'mixed')
  const moved = furthest(part(before, 500, 500, 400, 400), part(mixed, 500, 500, 400, 400))
  expect(moved).toBeGreaterThan(8)
  // a layer of oneself is not offered, and the other one cannot be deleted under it
  await deed(page, 'Broad', 'Delete')
  await expect(page.getByText(/“Photo” is made from it, live/)).toBeVisible()
  await page.getByRole('button', { name: 'Layer', exact: true }).click()
  await page.getByRole('menuitem', { name: 'A paper' }).hover()
  await page.getByRole('menuitem', { name: 'From a picture …' }).click()
  await page.getByRole('option', { name: 'Kraft paper.jpg' }).click()
  await settled(page)
  await saved(page)
  const was = await values(page)
  await reopened(page)
  expect(await values(page)).toEqual(was)
  const onPaper = await downloaded(page, info, 'paper')
  expect(meanOf(part(onPaper, 500, 500, 300, 300))).toBeLessThan(meanOf(part(mixed, 500, 500, 300, 300)) - 10)
})
