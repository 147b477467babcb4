import { type Page } from '@playwright/test'
import { openRow, proof, saved, settled, shown, difference, type Shown } from './bench-page.ts'
import { addLayer, addStep, begin, choose, set } from './by-hand.ts'
import { apart, brush, doing, downloaded, meanOf, onScreen, part, photoOf, rubbing, stroke, tap, type At, type Pixels } from './brush.ts'
import { expect, test } from './studio.ts'

// Painting by hand, by the pointer; each ends in a download that is looked at, and an artwork opened again.

test('a face is saved from a technique by a mask of faint cover', async ({ enter }, info) => {
  test.setTimeout(180_000)
  const page = await enter()
  await begin(page, 'The lantern keeper')
  await addStep(page, 'Halftone')
  await settled(page)
  const screened = await downloaded(page, info, 'screened')
  await page.getByRole('group', { name: 'Mask' }).getByRole('button', { name: 'Paint it away' }).click()
  await expect(page.getByText('Painting on: Mask of Halftone').first()).toBeVisible()
  await brush(page, { breadth: 260, cover: 3, edge: 20 })
  await doing(page, 'Take away')
  const before = await shown(page)
  await stroke(page, rubbing(520, 560, 420, 240, 4))
  const once = difference(before, await shown(page))
  expect(once).toBeGreaterThan(0.05)
  for (let i = 0; i < 5; i++) await stroke(page, rubbing(520, 560, 420, 240, 4))
  expect(difference(before, await shown(page))).toBeGreaterThan(2 * once)
  const saved1 = await downloaded(page, info, 'saved')
  const own = await photoOf('keeper-portrait.jpg')
  const face = [700, 640, 80, 80] as const
  // the face comes back, as far as six faint strokes go; the rest is pixel for pixel as it was
  expect(apart(part(saved1, ...face), part(own, ...face))).toBeLessThan(0.5 * apart(part(screened, ...face), part(own, ...face)))
  expect(apart(part(saved1, 20, 20, 200, 200), part(screened, 20, 20, 200, 200))).toBe(0)
  // undone one by one, and done again
  const painted = await shown(page)
  for (let i = 0; i < 6; i++) await page.getByRole('button', { name: /^Undo: Take away/ }).click()
  await settled(page)
  expect(difference(before, await shown(page))).toBe(0)
  for (let i = 0; i < 6; i++) await page.getByRole('button', { name: /^Redo: Take away/ }).click()
  expect(difference(painted, await shown(page))).toBe(0)
  await saved(page)
  await page.reload()
  await page.locator('[data-part="row"]').first().waitFor()
  expect(difference(painted, await shown(page))).toBeLessThan(0.02)
})

test('a flat-colour portrait: threshold, light map, painted fills under black lines', async ({ enter }, info) => {
  test.setTimeout(180_000)
  const page = await enter()
  await begin(page, 'The lantern keeper')
  await addStep(page, 'Threshold')
  await set(page, 'Level', '70')
  const plain = await shown(page)
  // the eyes brought back through the threshold, live
  await openRow(page, 'Photo')
  await page.getByRole('button', { name: 'Dodge and burn' }).click()
  await brush(page, { breadth: 200, cover: 60, edge: 20 })
  await doing(page, 'Burn')
  await stroke(page, rubbing(560, 640, 340, 160))
  await page.keyboard.press('Escape')
  expect(difference(plain, await shown(page))).toBeGreaterThan(0.2)
  const lit = await downloaded(page, info, 'lit')
  expect(part(lit, 540, 620, 380, 200).filter(([v]) => v === 0).length).toBeGreaterThan(20_000)
  // every pixel is black or white still: the light was changed under the threshold
  expect(part(lit, 540, 620, 380, 200).every(([v]) => v === 0 || v === 255)).toBe(true)
  // five colours, by multiply and darken, each on a layer of its own
  const fills: [string, string, number, number][] = [
    ['#d8a070', 'Multiply', 560, 700],
    ['#7a3b2e', 'Darken', 620, 300],
    ['#3c6e71', 'Multiply', 500, 1500],
    ['#e0c068', 'Multiply', 1200, 300],
    ['#b8442f', 'Darken', 1100, 1400],
  ]
  for (const [colour, blend, x, y] of fills) {
    await addLayer(page, 'Paint, by brush')
    await page
      .getByRole('button', { name: /^Colour, / })
      .first()
      .click()
    await page.getByRole('textbox', { name: /hex/i }).first().fill(colour)
    await page.keyboard.press('Enter')
    await page.keyboard.press('Escape')
    const painting = page.getByRole('toolbar', { name: 'Hands' }).getByRole('button', { name: 'Paint', exact: true })
    if ((await painting.getAttribute('aria-pressed')) !== 'true') await painting.click()
    await page.getByRole('radio', { name: /^Firm/ }).click()
    await brush(page, { breadth: 220, cover: 100, edge: 100 })
    await stroke(page, rubbing(x, y, 260, 120))
    await page.keyboard.press('Escape')
    await choose(page, 'Blend', blend)
  }
  const coloured = await downloaded(page, info, 'coloured')
  for (const [colour, , x, y] of fills) {
    const rgb = [1, 3, 5].map((i) => Number.parseInt(colour.slice(i, i + 2), 16))
    const here = part(coloured, x + 60, y + 20, 120, 80)
    const under = part(lit, x + 60, y + 20, 120, 80)
    // white took the colour, black stayed black
    const far = here.map((p, i) => Math.max(...p.map((v, c) => Math.abs(v - (under[i]![0] === 0 ? 0 : rgb[c]!)))))
    expect(Math.max(...far)).toBeLessThanOrEqual(2)
  }
  const before = await shown(page)
  await page.reload()
  await page.locator('[data-part="row"]').first().waitFor()
  expect(difference(before, await shown(page))).toBeLessThan(0.02)
})

test('a freckle is painted out above the lines and below the tooth', async ({ enter }, info) => {
  test.setTimeout(180_000)
  const page = await enter()
  await begin(page, 'The lantern keeper')
  await page.getByLabel('Search steps and recipes').fill('Graphite')
  await page
    .getByRole('dialog', { name: 'Picker' })
    .getByRole('button', { name: /^Graphite on this photo/ })
    .click()
  await settled(page)
  const drawn = await downloaded(page, info, 'drawn')
  await page.getByRole('button', { name: 'Paint it out' }).first().click()
  await expect(page.locator('[data-part="row"] [data-part="who"] b')).toHaveText([
    'Values and paper',
    'Painted out',
    'Shading',
    'Pencil lines',
    'Black-and-white',
  ])
  await expect(page.getByText('Painting on: Painted out').first()).toBeVisible()
  await page.getByRole('radio', { name: /^Soft/ }).click()
  // in the white of the sheet, till another tone is picked from it
  await expect(page.getByRole('button', { name: /^Colour, #f/ })).toBeVisible()
  await choose(page, 'Sample of the dropper', '31 × 31')
  await page.mouse.move(...(await onScreen(page))([120, 900]))
  await page.keyboard.down('c')
  await tap(page, [120, 900])
  await expect(page.getByRole('group', { name: 'Colours picked so far' }).getByRole('button')).toHaveCount(2)
  await page.keyboard.up('c')
  await brush(page, { breadth: 180, cover: 100, edge: 60 })
  // the coat: as dark as the drawing gets
  await stroke(page, rubbing(280, 1640, 160, 60))
  const out = await downloaded(page, info, 'out')
  const [was, is] = [part(drawn, 300, 1650, 100, 40), part(out, 300, 1650, 100, 40)]
  expect(meanOf(is)).toBeGreaterThan(meanOf(was) + 20)
  // no bald patch: the tone laid there stands on the tooth as the same tone does elsewhere
  const spread = (p: number[][]) => Math.sqrt(p.reduce((s, [v]) => s + (v! - meanOf(p)) ** 2, 0) / p.length)
  const paper = part(out, 70, 880, 100, 40)
  expect(spread(is)).toBeGreaterThan(0.3 * spread(paper))
  expect(apart(part(out, 20, 20, 200, 200), part(drawn, 20, 20, 200, 200))).toBe(0)
})

test('a halftone is painted in with symmetry, its dots smaller and none grey where it was softly erased', async ({ enter }, info) => {
  test.setTimeout(180_000)
  const page = await enter()
  await begin(page, 'Heron on a post')
  await addStep(page, 'Black-and-white')
  await addStep(page, 'Halftone')
  await page.getByRole('group', { name: 'Mask' }).getByRole('button', { name: 'Paint it in' }).click()
  await settled(page)
  const before = await downloaded(page, info, 'before')
  await choose(page, 'Symmetry', 'Mirrored')
  await page.getByRole('radio', { name: /^Firm/ }).click()
  await brush(page, { breadth: 300, cover: 100, edge: 100 })
  await stroke(page, rubbing(400, 400, 300, 400))
  const faded = await downloaded(page, info, 'faded')
  // on the other side too, which the brush never touched, and nowhere else
  const changed = (x: number) => apart(part(faded, x, 500, 120, 120), part(before, x, 500, 120, 120))
  expect(changed(480)).toBeGreaterThan(10)
  expect(changed(1920 - 600)).toBeGreaterThan(10)
  expect(changed(900)).toBe(0)
  // now as marks that are thinned: softly erased, they are smaller
  await page.getByRole('switch', { name: 'Thins the marks' }).click()
  await settled(page)
  const full = await downloaded(page, info, 'full')
  await doing(page, 'Take away')
  await brush(page, { cover: 30, most: 50 })
  await stroke(page, rubbing(450, 500, 200, 200))
  const thinned = await downloaded(page, info, 'thinned')
  const ink = (p: Pixels) => part(p, 500, 540, 100, 100).filter(([v]) => v! < 60).length
  const between = (p: Pixels) => part(p, 500, 540, 100, 100).filter(([v]) => v! > 80 && v! < 200).length
  expect(ink(thinned)).toBeLessThan(0.85 * ink(full))
  expect(ink(thinned)).toBeGreaterThan(0)
  // rims of dots aside, nothing is grey
  expect(between(thinned) / 10000).toBeLessThan(0.2)
  await saved(page)
  const last = await shown(page)
  await page.reload()
  await page.locator('[data-part="row"]').first().waitFor()
  expect(difference(last, await shown(page))).toBeLessThan(0.02)
})

test('blocks stand only where white was painted on the black mask, which is shown alone', async ({ enter }, info) => {
  test.setTimeout(180_000)
  const page = await enter()
  await begin(page, 'Tin boats')
  await addStep(page, 'Pixel blocks')
  await page.getByRole('group', { name: 'Mask' }).getByRole('button', { name: 'Paint it in' }).click()
  await page.locator('[data-part="tuning"]').getByText('Alone', { exact: true }).click()
  const empty = await shown(page)
  const inside = (s: typeof empty) => {
    const values: number[] = []
    for (let y = Math.ceil(s.y) + 2; y < s.y + 1920 * s.scale - 2; y += 3)
      for (let x = Math.ceil(s.x) + 2; x < s.x + 1920 * s.scale - 2; x += 3) values.push(s.data[(y * s.w + x) * 4]!)
    return values
  }
  expect(inside(empty).every((v) => v === 0)).toBe(true)
  await page.getByRole('radio', { name: /^Firm/ }).click()
  await brush(page, { breadth: 400, cover: 100, edge: 100 })
  await stroke(page, [
    [900, 900],
    [1100, 900],
  ])
  const white = inside(await shown(page)).filter((v) => v === 255).length
  expect(white).toBeGreaterThan(100)
  await page.locator('[data-part="tuning"]').getByText('Overlay', { exact: true }).click()
  await settled(page)
  await page.locator('[data-part="tuning"]').getByText('Picture', { exact: true }).click()
  await settled(page)
  const mixed = await downloaded(page, info, 'mixed')
  const own = await photoOf('tin-boats.jpg')
  expect(apart(part(mixed, 100, 100, 300, 300), part(own, 100, 100, 300, 300))).toBeLessThan(0.01)
  // a block's pixels are alike
  const here = part(mixed, 1000, 900, 6, 6)
  expect(apart(here, part(own, 1000, 900, 6, 6))).toBeGreaterThan(0)
})

test('what is painted on is told, hidden layers offer the way, choosing another proof puts the brush down', async ({ enter }) => {
  const page = await enter()
  await page.getByRole('button', { name: 'Open The keeper in graphite' }).click()
  await settled(page)
  await page.getByRole('button', { name: 'What is painted on' }).click()
  await page.getByRole('menuitem', { name: 'Mask of Shading, new' }).click()
  await expect(page.locator('[data-part="row"][data-painted]')).toHaveAttribute('aria-label', 'Layer Shading')
  await openRow(page, 'Shading')
  await expect(page.locator('[data-part="easel"]')).not.toHaveAttribute('data-painting', /./)
  await page.keyboard.press('p')
  await expect(page.locator('[data-part="easel"]')).toHaveAttribute('data-painting', 'paint')
  await expect(page.getByText('Painting on: Mask of Shading').first()).toBeVisible()
  // a held key lends another hand
  await page.keyboard.down('g')
  await expect(page.locator('[data-part="easel"]')).toHaveAttribute('data-painting', 'pan')
  await page.keyboard.up('g')
  await expect(page.locator('[data-part="easel"]')).toHaveAttribute('data-painting', 'paint')
  await page.keyboard.press('Escape')
  await expect(page.locator('[data-part="easel"]')).not.toHaveAttribute('data-painting', /./)
  await page.getByRole('checkbox', { name: 'Layer is shown' }).uncheck()
  await page.keyboard.press('p')
  await page.getByRole('toolbar', { name: 'Hands' }).getByRole('button', { name: 'Show it' }).click()
  await expect(page.getByRole('toolbar', { name: 'Hands' }).getByText('Shading is hidden.')).toHaveCount(0)
  await proof(page, 'Shading', 'Levels').click()
  await expect(page.locator('[data-part="easel"]')).not.toHaveAttribute('data-painting', /./)
})

test('the server is killed mid-stroke, then the tab is closed mid-stroke: both strokes are there', async ({ enter, studio }) => {
  test.setTimeout(180_000)
  const page = await enter()
  await begin(page, 'Tin boats')
  await page.keyboard.press('Escape')
  await addLayer(page, 'Paint, by brush')
  await brush(page, { breadth: 160, cover: 100, edge: 90 })
  await saved(page)
  await settled(page)
  await stroke(
    page,
    [
      [300, 300],
      [700, 300],
    ],
    false,
  )
  await studio.kill('SIGKILL')
  await page.mouse.move(700, 320, { steps: 4 })
  await page.mouse.up()
  await expect(page.getByRole('button', { name: /^Undo: Stroke on Paint/ })).toBeVisible()
  await expect(page.locator('[data-save="away"]')).toBeVisible()
  await studio.start()
  await saved(page)
  await settled(page)
  const first = await shown(page)
  await stroke(
    page,
    [
      [300, 1300],
      [900, 1300],
      [1300, 1300],
    ],
    false,
  )
  await page.waitForTimeout(250)
  const [context, url] = [page.context(), page.url()]
  await page.close()
  const again = await context.newPage()
  await again.goto(url)
  await expect(again.getByText('A stroke that was not finished when the page was closed is back.')).toBeVisible({ timeout: 20_000 })
  await settled(again)
  await saved(again)
  const both = await shown(again)
  expect(difference(first, both)).toBeGreaterThan(0.5)
  // the first one is where it was
  const at = (s: typeof both, x: number, y: number) => s.data[(Math.round(s.y + y * s.scale) * s.w + Math.round(s.x + x * s.scale)) * 4]!
  expect(Math.abs(at(both, 450, 300) - at(first, 450, 300))).toBeLessThan(3)
  expect(at(both, 700, 1300)).toBeLessThan(60)
})

/** The red of a place of the artwork as the picture shows it. */
const redAt = (s: Shown, x: number, y: number): number => s.data[(Math.round(s.y + y * s.scale) * s.w + Math.round(s.x + x * s.scale)) * 4]!
const across = (y: number): At[] => [
  [300, y],
  [700, y],
]
/** Tin boats with a layer of paint, a firm dark brush on it. */
async function ready(page: Page): Promise<void> {
  await begin(page, 'Tin boats')
  await page.keyboard.press('Escape')
  await addLayer(page, 'Paint, by brush')
  await brush(page, { breadth: 160, cover: 100, edge: 90 })
  await saved(page)
  await settled(page)
}

test('the picture engine dies mid-stroke: the next one paints it from its beginning', async ({ enter }) => {
  test.setTimeout(120_000)
  const page = await enter()
  await ready(page)
  await stroke(page, across(300), false)
  const engine = page.workers().find((w) => /worker/.test(w.url()))!
  await engine.evaluate(() => {
    setTimeout(() => {
      throw new Error('a drill')
    })
  })
  await page.getByText('The picture engine stopped and was started again').waitFor()
  const at = await onScreen(page)
  await page.mouse.move(...at([1100, 300]), { steps: 5 })
  await page.mouse.up()
  await expect(page.getByRole('button', { name: /^Undo: Stroke on Paint/ })).toBeVisible({ timeout: 20_000 })
  await settled(page)
  const now = await shown(page)
  for (const x of [350, 650, 1050]) expect(redAt(now, x, 300)).toBeLessThan(40)
  await saved(page)
})

test('the server is away for ten minutes while one paints: every stroke is there afterwards', async ({ enter }) => {
  test.setTimeout(180_000)
  const page = await enter()
  await page.clock.install()
  await ready(page)
  await page.context().setOffline(true)
  for (let i = 0; i < 4; i++) {
    await stroke(page, across(300 + 300 * i))
    await page.clock.fastForward('02:30')
  }
  await expect(page.locator('[data-save="away"]')).toBeVisible()
  const painted = await shown(page)
  await page.context().setOffline(false)
  await page.clock.fastForward('01:00')
  await saved(page)
  // another browser has nothing but what the server has
  const { context, url } = { context: page.context(), url: page.url() }
  await page.evaluate(async () => {
    for (const { name } of await indexedDB.databases()) indexedDB.deleteDatabase(name!)
  })
  await page.close()
  const again = await context.newPage()
  await again.goto(url)
  await again.locator('[data-part="row"]').first().waitFor()
  await settled(again)
  expect(difference(painted, await shown(again))).toBeLessThan(0.02)
})

test('a browser that has no more room says so and leaves the stroke out; with room again, painting goes on', async ({ enter }) => {
  test.setTimeout(120_000)
  const page = await enter()
  await ready(page)
  await stroke(page, across(300))
  await saved(page)
  const before = await shown(page)
  // as a browser answers whose room is used up
  const engine = page.workers().find((w) => /worker/.test(w.url()))!
  await engine.evaluate(() => {
    const put = IDBObjectStore.prototype.put
    Object.assign(globalThis, { room: () => (IDBObjectStore.prototype.put = put) })
    IDBObjectStore.prototype.put = () => {
      throw new DOMException('The quota has been exceeded.', 'QuotaExceededError')
    }
  })
  await stroke(page, across(900), false)
  await page.mouse.up()
  await expect(page.getByText('This browser has no more room for what is painted.')).toBeVisible({ timeout: 15_000 })
  await settled(page)
  expect(difference(before, await shown(page))).toBeLessThan(0.02)
  await engine.evaluate(() => (globalThis as unknown as { room: () => void }).room())
  await stroke(page, across(1300))
  await saved(page)
  const after = await shown(page)
  expect(redAt(after, 500, 1300)).toBeLessThan(40)
  expect(redAt(after, 500, 300)).toBeLessThan(40)
})

test.describe('by touch', () => {
  test.use({ hasTouch: true })

  test('one finger paints, two pan, zoom and turn the view; the palm rests while a pen is near', async ({ enter }) => {
    test.setTimeout(180_000)
    const page = await enter()
    await begin(page, 'Tin boats')
    await page.keyboard.press('Escape')
    await addLayer(page, 'Paint, by brush')
    await brush(page, { breadth: 160, cover: 100, edge: 90 })
    await settled(page)
    const client = await page.context().newCDPSession(page)
    const at = await onScreen(page)
    const touch = (type: 'touchStart' | 'touchMove' | 'touchEnd', ...points: [number, number][]) =>
      client.send('Input.dispatchTouchEvent', { type, touchPoints: points.map(([x, y], id) => ({ x, y, id })) })
    const undo = page.getByRole('button', { name: /^Undo: / })
    const before = await shown(page)
    await touch('touchStart', at([500, 700]))
    for (let i = 1; i <= 8; i++) await touch('touchMove', at([500 + i * 80, 700]))
    await touch('touchEnd')
    await expect(undo).toHaveAttribute('aria-label', /^Undo: Stroke on Paint/)
    const painted = await shown(page)
    expect(difference(before, painted)).toBeGreaterThan(0.5)
    // the second finger gives up what the first began, and moves the view
    const [x, y] = at([960, 960])
    await touch('touchStart', [x - 60, y])
    await touch('touchMove', [x - 58, y])
    await touch('touchStart', [x - 58, y], [x + 60, y])
    for (let i = 1; i <= 12; i++) {
      const a = (i / 12) * (Math.PI / 6)
      const r = 60 + i * 4
      await touch('touchMove', [x - r * Math.cos(a), y - r * Math.sin(a)], [x + r * Math.cos(a), y + r * Math.sin(a)])
    }
    await touch('touchEnd')
    const view = await page.evaluate(() => JSON.parse(localStorage.getItem('quill.prefs') ?? '{}') as { turned: number })
    expect(view.turned).toBeGreaterThan(20)
    expect(view.turned).toBeLessThan(40)
    const turned = await shown(page)
    expect(turned.scale).toBeGreaterThan(1.3 * painted.scale)
    // nothing was painted by it
    await expect(undo).toHaveAttribute('aria-label', /^Undo: Stroke on Paint/)
    await undo.click()
    await expect(undo).not.toHaveAttribute('aria-label', /Stroke/)
    // a pen hovers: what touches meanwhile is the palm
    await page.locator('[data-part="easel"]').dispatchEvent('pointermove', { pointerType: 'pen', pointerId: 77, bubbles: true })
    await touch('touchStart', [x, y])
    for (let i = 1; i <= 4; i++) await touch('touchMove', [x + i * 20, y])
    await touch('touchEnd')
    await page.waitForTimeout(300)
    await expect(undo).not.toHaveAttribute('aria-label', /Stroke/)
  })
})
