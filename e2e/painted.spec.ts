import { type Locator, type Page, type TestInfo } from '@playwright/test'
import { readFileSync } from 'node:fs'
import sharp from 'sharp'
import { difference, openRow, row, saved, settled, shown } from './bench-page.ts'
import { addLayer, addStep, begin, choose, deed, reopened, set } from './by-hand.ts'
import { apart, brush, doing, downloaded, meanOf, part, pixelsOf, rubbing, stroke, type Pixels } from './brush.ts'
import { halfPhoto } from './own-photo.ts'
import { expect, test } from './studio.ts'

// Painted artworks as an illustrator makes them, by hand on the bench: each to a download that is looked at, and an artwork opened again.

const named = async (page: Page, name: string) => {
  await page.getByLabel('Name', { exact: true }).fill(name)
  await page.getByLabel('Name', { exact: true }).press('Enter')
}
/** Another copy of the photo on top, with a name, a step and a blend mode. */
async function version(page: Page, name: string, step: string, blend: string): Promise<void> {
  await addLayer(page, 'The photo')
  await named(page, name)
  await addStep(page, step)
  await openRow(page, name)
  await choose(page, 'Blend', blend)
}
/** How much neighbours differ, mean over a part. */
const restless = (p: Pixels, x: number, y: number, w: number, h: number): number => apart(part(p, x, y, w, h), part(p, x + 1, y, w, h))
const light = ([r, g, b]: number[]) => 0.2126 * r! + 0.7152 * g! + 0.0722 * b!

/** Renders at full size, by what `fill` says in the dialog; where the downloaded file is. */
async function renderedAs(page: Page, info: TestInfo, file: string, fill: (dialog: Locator) => Promise<void>): Promise<string> {
  await saved(page)
  await page.getByRole('button', { name: 'Render', exact: true }).click()
  const dialog = page.getByRole('dialog', { name: 'Render at full size' })
  await fill(dialog)
  await dialog.getByRole('button', { name: 'Render', exact: true }).click()
  await expect(dialog.locator('[data-render-state="done"]')).toBeVisible({ timeout: 120_000 })
  const waiting = page.waitForEvent('download')
  await dialog.getByRole('link', { name: 'Download' }).click()
  const path = info.outputPath(file)
  await (await waiting).saveAs(path)
  await page.keyboard.press('Escape')
  return path
}

test('watercolour by three layers: cut paper by luminosity, broad brushwork by screen, a median by soft light', async ({ enter }, info) => {
  test.setTimeout(300_000)
  const page = await enter()
  const own = await halfPhoto(page, info, 'tin-boats.jpg', 'Small boats')
  await begin(page, 'Small boats')
  await page.keyboard.press('Escape')
  await version(page, 'Cut paper', 'Paper shapes', 'Luminosity')
  await settled(page)
  // its own shapes are seen alone, and back
  const together = await shown(page)
  await deed(page, 'Cut paper', 'Alone')
  await settled(page)
  expect(difference(together, await shown(page))).toBeGreaterThan(0.5)
  await deed(page, 'Cut paper', 'Alone')
  await settled(page)
  expect(difference(together, await shown(page))).toBe(0)
  await version(page, 'Brushwork', 'Broad brush', 'Screen')
  await set(page, 'Opacity', '60')
  await version(page, 'Calm', 'Median', 'Soft light')
  await expect(page.locator('[data-part="row"] [data-part="who"] b')).toHaveText(['Calm', 'Brushwork', 'Cut paper', 'Photo'])
  await settled(page)
  const sheet = await downloaded(page, info, 'three')
  expect([sheet.w, sheet.h]).toEqual([own.w, own.h])
  // lighter than the photo, and calmer: what is small is gone
  const middle = [Math.round(own.w * 0.35), Math.round(own.h * 0.35), 400, 300] as const
  expect(meanOf(part(sheet, ...middle))).toBeGreaterThan(meanOf(part(own, ...middle)) + 8)
  expect(restless(sheet, ...middle)).toBeLessThan(restless(own, ...middle))
  await reopened(page)
  await expect(page.locator('[data-part="row"] [data-part="who"] b')).toHaveText(['Calm', 'Brushwork', 'Cut paper', 'Photo'])
})

test('oil, the short way: muted, painted, mirrored under a lamp that stays, a JPEG at 80', async ({ enter }, info) => {
  test.setTimeout(300_000)
  const page = await enter()
  await halfPhoto(page, info, 'keeper-portrait.jpg', 'Small keeper')
  await begin(page, 'Small keeper')
  await addStep(page, 'Vibrance')
  await set(page, 'Vibrance', '-20')
  await set(page, 'Saturation', '-3')
  await addStep(page, 'Flowing oil')
  await set(page, 'Body', '80')
  await settled(page)
  const painted = await downloaded(page, info, 'painted')
  await page.keyboard.press('f')
  await page.getByRole('button', { name: 'Flip the sheet left to right' }).click()
  await settled(page)
  await page.keyboard.press('Escape')
  const flipped = await downloaded(page, info, 'flipped')
  // the same picture the other way round; its ridges are lit from where they were lit before
  const mirrored: Pixels = { ...painted, data: Buffer.from(painted.data) }
  for (let y = 0; y < painted.h; y++)
    for (let x = 0; x < painted.w; x++)
      painted.data.copy(mirrored.data, (y * painted.w + painted.w - 1 - x) * 3, (y * painted.w + x) * 3, (y * painted.w + x) * 3 + 3)
  const face = [250, 250, 250, 250] as const
  const lit = apart(part(flipped, ...face), part(mirrored, ...face))
  expect(lit).toBeGreaterThan(0.3)
  expect(lit).toBeLessThan(12)
  expect(Math.abs(meanOf(part(flipped, ...face)) - meanOf(part(mirrored, ...face)))).toBeLessThan(3)
  const jpeg = readFileSync(
    await renderedAs(page, info, 'at-80.jpg', async (dialog) => {
      await dialog.getByText('JPEG', { exact: true }).click()
      await dialog.getByLabel('Quality').fill('80')
    }),
  )
  expect(await sharp(jpeg).metadata()).toMatchObject({ format: 'jpeg', width: painted.w, height: painted.h })
  const again = await sharp(jpeg).removeAlpha().raw().toBuffer()
  const after: Pixels = { w: painted.w, h: painted.h, data: again }
  const lossy = apart(part(after, ...face), part(flipped, ...face))
  expect(lossy).toBeGreaterThan(0.1)
  expect(lossy).toBeLessThan(6)
  // quantised as the tables of ITU-T T.81 (annex K) are at this quality, whose first entry is 16 at 50: 16 · 0.4, rounded
  const table = jpeg.indexOf(Buffer.from([0xff, 0xdb]))
  expect(jpeg[table + 5]).toBe(6)
  await reopened(page)
})

test('oil with the face saved: its mask painted by hand, softly, until the photo is through where paint muddled it', async ({ enter }, info) => {
  test.setTimeout(300_000)
  const page = await enter()
  const own = await halfPhoto(page, info, 'keeper-portrait.jpg', 'Small keeper')
  await begin(page, 'Small keeper')
  await page
    .getByRole('dialog', { name: 'Picker' })
    .getByRole('button', { name: /^Oil with the face saved/ })
    .click()
  await row(page, 'Vignette').waitFor()
  await settled(page)
  const painted = await downloaded(page, info, 'painted')
  await openRow(page, 'Oil')
  await page.getByRole('group', { name: 'Mask' }).getByRole('button', { name: 'Paint', exact: true }).click()
  await expect(page.getByText('Painting on: Mask of Oil').first()).toBeVisible()
  await brush(page, { breadth: 120, cover: 12, edge: 20 })
  await doing(page, 'Take away')
  for (let i = 0; i < 4; i++) await stroke(page, rubbing(260, 280, 210, 120, 4))
  const face = [320, 300, 100, 70] as const
  const far = [30, 30, 100, 100] as const
  const kept = await downloaded(page, info, 'kept')
  // pixel for pixel as it was away from the brush, nearer to the photo under it: its fine forms are back
  expect(apart(part(kept, ...far), part(painted, ...far))).toBe(0)
  expect(apart(part(kept, ...face), part(painted, ...face))).toBeGreaterThan(2)
  const shape = (p: Pixels) => part(p, ...face).map(light)
  const likeness = (a: number[], b: number[]) => {
    const [ma, mb] = [a, b].map((v) => v.reduce((s, x) => s + x, 0) / v.length) as [number, number]
    let [ab, aa, bb] = [0, 0, 0]
    a.forEach((v, i) => {
      ab += (v - ma) * (b[i]! - mb)
      aa += (v - ma) ** 2
      bb += (b[i]! - mb) ** 2
    })
    return ab / Math.sqrt(aa * bb)
  }
  expect(1 - likeness(shape(kept), shape(own))).toBeLessThan(0.75 * (1 - likeness(shape(painted), shape(own))))
  await reopened(page)
})

test('a painterly print: brushwork over brushwork, its blacks, whites and colours set, at a printed size', async ({ enter }, info) => {
  test.setTimeout(300_000)
  const page = await enter()
  const own = await halfPhoto(page, info, 'heron-on-post.jpg', 'Small heron')
  await begin(page, 'Small heron')
  await page.keyboard.press('Escape')
  await openRow(page, 'Photo')
  await addStep(page, 'Broad brush')
  await settled(page)
  const once = await downloaded(page, info, 'once')
  await page.locator('[data-part="row"][data-open] [data-part="gap"]').last().click()
  await addStep(page, 'Broad brush')
  await settled(page)
  const twice = await downloaded(page, info, 'twice')
  const whole = [Math.round(twice.w / 2) - 240, Math.round(twice.h / 2) - 160, 480, 320] as const
  // painted over once more it is looser: further from the photo
  expect(apart(part(twice, ...whole), part(own, ...whole))).toBeGreaterThan(1.05 * apart(part(once, ...whole), part(own, ...whole)))
  await addLayer(page, 'What lies below')
  await addStep(page, 'Levels')
  await set(page, 'Black point', '14')
  await set(page, 'White point', '240')
  await addStep(page, 'Vibrance')
  await set(page, 'Saturation', '20')
  await settled(page)
  const chroma = (p: Pixels) => part(p, ...whole).reduce((s, c) => s + Math.max(...c) - Math.min(...c), 0)
  const file = await renderedAs(page, info, 'print.png', async (dialog) => {
    await dialog.getByLabel('Resolution').fill('240')
    await expect(dialog.getByText(`${((twice.w / 240) * 2.54).toFixed(1)} × ${((twice.h / 240) * 2.54).toFixed(1)} cm in print`)).toBeVisible()
  })
  expect((await sharp(file).metadata()).density).toBe(240)
  const print = await pixelsOf(file)
  expect(chroma(print)).toBeGreaterThan(1.1 * chroma(twice))
  const tones = (p: Pixels) =>
    part(p, ...whole)
      .map(light)
      .sort((a, b) => a - b)
  const [before, after] = [tones(twice), tones(print)]
  const spread = (t: number[]) => t[Math.floor(t.length * 0.98)]! - t[Math.floor(t.length * 0.02)]!
  expect(spread(after)).toBeGreaterThan(spread(before))
  await reopened(page)
})

test('a retro poster: flattened, painted, calmed again, broad brush and cut paper mixed in, each by a blend of its own, on an old paper', async ({
  enter,
}, info) => {
  test.setTimeout(300_000)
  const page = await enter()
  await halfPhoto(page, info, 'keeper-portrait.jpg', 'Small keeper')
  await begin(page, 'Small keeper')
  await addStep(page, 'Shadows and highlights')
  await addStep(page, 'Edge-keeping smooth')
  await addStep(page, 'Flowing oil')
  await addStep(page, 'Edge-keeping smooth')
  await addStep(page, 'Unsharp mask')
  // what is mixed in is made on layers of their own, which are hidden
  for (const [name, step] of [
    ['Broad', 'Broad brush'],
    ['Cut', 'Paper shapes'],
  ] as const) {
    await addLayer(page, 'The photo')
    await named(page, name)
    await addStep(page, step)
    await deed(page, name, 'Shown')
  }
  await openRow(page, 'Photo')
  await settled(page)
  const before = await downloaded(page, info, 'before')
  for (const [name, opacity] of [
    ['Broad', '40'],
    ['Cut', '50'],
  ] as const) {
    await addStep(page, 'Mix in')
    await page.locator('[data-part="tuning"]').getByRole('combobox', { name: 'Picture', exact: true }).click()
    await page.getByRole('option', { name, exact: true }).click()
    await choose(page, 'Blend', 'Soft light')
    await set(page, 'Opacity', opacity)
  }
  await settled(page)
  const mixed = await downloaded(page, info, 'mixed')
  const some = [150, 150, 350, 350] as const
  expect(apart(part(before, ...some), part(mixed, ...some))).toBeGreaterThan(3)
  // each is opened again, later
  await page.locator('[data-part="row"] [data-part="held"] [data-part="proof"]', { hasText: 'Flowing oil' }).click()
  await set(page, 'Opacity', '60')
  await addLayer(page, 'A paper')
  await page.getByRole('menuitem', { name: 'From a picture …' }).click()
  await page.getByRole('option', { name: 'Kraft paper.jpg' }).click()
  await settled(page)
  const onPaper = await downloaded(page, info, 'paper')
  expect(meanOf(part(onPaper, ...some))).toBeLessThan(meanOf(part(mixed, ...some)) - 10)
  // the paper is brown: less blue for its red than before
  const blue = (p: Pixels) => {
    const [r, , b] = [0, 1, 2].map((c) => part(p, ...some).reduce((sum, v) => sum + v[c]!, 0))
    return b! / r!
  }
  expect(blue(onPaper)).toBeLessThan(0.92 * blue(mixed))
  await reopened(page)
})
