import { expect } from '@playwright/test'
import { difference, openRow, pickerFilled, proof, row, saved, settled, shown } from './bench-page.ts'
import { addLayer, addStep, begin, choose, mean, reopened, set, values } from './by-hand.ts'
import { test } from './studio.ts'

// The journeys of an illustrator, by hand on the bench, and what the bench offers on the way.

test('a graphite sketch by hand: black-and-white, its negative dodged over it, levels', async ({ enter }) => {
  test.setTimeout(240_000)
  const page = await enter()
  await begin(page, 'The lantern keeper')
  await addStep(page, 'Black-and-white')
  await choose(page, 'Emulsion', 'Orthochromatic')
  // reds by themselves lighter again, on the ring
  await page.getByRole('slider', { name: 'By hue, red' }).focus()
  for (let i = 0; i < 10; i++) await page.keyboard.press('ArrowUp')
  await expect(page.getByRole('slider', { name: 'By hue, red' })).toHaveAttribute('aria-valuenow', '20')
  await addLayer(page, '“Photo”, live')
  await addStep(page, 'Invert')
  await page.locator('[data-part="row"][data-open] [data-part="who"]').click()
  await choose(page, 'Blend', 'Color dodge')
  // before the blur the sheet is nearly white: that is how one knows it is right
  expect((await mean(page))[0]).toBeGreaterThan(0.93)
  await addStep(page, 'Gaussian blur')
  await page.getByRole('combobox', { name: 'Sigma, unit' }).click()
  await page.getByRole('option', { name: '%', exact: true }).click()
  await set(page, 'Sigma', '0.3')
  const drawn = (await mean(page))[0]
  expect(drawn).toBeLessThan(0.97)
  await addLayer(page, 'What lies below')
  await addStep(page, 'Levels')
  await set(page, 'Midtone', '0.6')
  expect((await mean(page))[0]).toBeLessThan(drawn - 0.01)
  await reopened(page)
})

test('wash and ink by hand: black taken out, a wash on paper, the darks as ink', async ({ enter }) => {
  test.setTimeout(240_000)
  const page = await enter()
  await begin(page, 'Heron on a post')
  // the colour without its black component
  await addStep(page, 'Channel mixer')
  await choose(page, 'Mixed in', 'CMYK')
  const lighter = await mean(page)
  await page.getByLabel('Black out of Black, per cent').fill('0')
  await page.getByLabel('Black out of Black, per cent').press('Tab')
  const bright = await mean(page)
  expect(bright[0]).toBeGreaterThan(lighter[0])
  await addStep(page, 'Gaussian blur')
  await set(page, 'Sigma', '18')
  await openRow(page, 'Photo')
  await set(page, 'Opacity', '70')
  // off-white paper goes under it
  await addLayer(page, 'A fill …')
  await page.getByLabel('Colour of the fill').fill('#f5efe2')
  await page.getByRole('button', { name: 'Add fill' }).click()
  await row(page, 'Fill').locator('[data-part="who"]').focus()
  await page.keyboard.press('Alt+ArrowDown')
  await expect(page.locator('[data-part="row"] [data-part="who"] b')).toHaveText(['Photo', 'Fill'])
  // the darks, as ink on transparent
  await openRow(page, 'Photo')
  await addLayer(page, 'The photo')
  const layers = page.locator('[data-part="row"] [data-part="who"] b')
  await expect(layers).toHaveText(['Photo', 'Photo', 'Fill'])
  await page.getByLabel('Name', { exact: true }).fill('Ink')
  await page.getByLabel('Name', { exact: true }).press('Enter')
  const before = await shown(page)
  await addStep(page, 'Tone to transparency')
  await set(page, 'Clear from', '150')
  await openRow(page, 'Ink')
  await set(page, 'Opacity', '50')
  expect(difference(before, await shown(page))).toBeGreaterThan(2)
  const [r, g, b] = await mean(page)
  // the paper shows: lighter than the photo, and warm
  expect(r).toBeGreaterThan(0.6)
  expect(r).toBeGreaterThan(b)
  expect(g).toBeGreaterThan(0.5)
  await reopened(page)
})

test('a photogram: threshold, invert, curves, and the steps dragged into another order', async ({ enter }) => {
  test.setTimeout(240_000)
  const page = await enter()
  await begin(page, 'Tin boats')
  await addStep(page, 'Black-and-white')
  await addStep(page, 'Threshold')
  await choose(page, 'Level by', 'Share of black')
  await set(page, 'Black', '60')
  expect((await mean(page))[0]).toBeGreaterThan(0.36)
  expect((await mean(page))[0]).toBeLessThan(0.44)
  await set(page, 'Soft width', '60')
  await addStep(page, 'Invert')
  expect((await mean(page))[0]).toBeGreaterThan(0.5)
  await addStep(page, 'Curves')
  const curve = page.getByRole('group', { name: 'Tone curve' })
  const box = (await curve.boundingBox())!
  await page.mouse.click(box.x + box.width * 0.35, box.y + box.height * 0.8)
  await expect(curve.getByRole('slider')).toHaveCount(3)
  const curved = await shown(page)
  // threshold tried, hidden, and back
  await row(page, 'Photo').getByRole('checkbox', { name: 'Threshold on' }).uncheck()
  expect(difference(curved, await shown(page))).toBeGreaterThan(5)
  await row(page, 'Photo').getByRole('checkbox', { name: 'Threshold on' }).check()
  expect(difference(curved, await shown(page))).toBe(0)
  // another order, another picture
  await proof(page, 'Photo', 'Invert').click()
  await page.keyboard.press('Alt+ArrowLeft')
  await expect(row(page, 'Photo').locator('[data-part="held"] [data-part="cap"]')).toHaveText(['Black-and-white', 'Invert', 'Threshold', 'Curves'])
  expect(difference(curved, await shown(page))).toBeGreaterThan(3)
  // held: the artwork without the step, and the step alone
  const now = await shown(page)
  await page.getByRole('button', { name: 'Without it' }).focus()
  await page.keyboard.down('Enter')
  await expect(page.getByText('Without Invert')).toBeVisible()
  await page.waitForTimeout(500)
  expect(difference(now, await shown(page))).toBeGreaterThan(3)
  await page.keyboard.up('Enter')
  expect(difference(now, await shown(page))).toBe(0)
  await reopened(page)
})

test('a pixel mosaic, and colours found on it between lower midtones and highlights', async ({ enter }) => {
  test.setTimeout(240_000)
  const page = await enter()
  await begin(page, 'Marsh at sunset')
  await addStep(page, 'Edge-keeping smooth')
  await choose(page, 'Way', 'Soft and wide (guided)')
  await addStep(page, 'Pixel blocks')
  await page.getByRole('combobox', { name: 'Tile width, unit' }).click()
  await page.getByRole('option', { name: 'px', exact: true }).click()
  await set(page, 'Tile width', '32')
  await page.getByRole('combobox', { name: 'Tile height, unit' }).click()
  await page.getByRole('option', { name: 'px', exact: true }).click()
  await set(page, 'Tile height', '32')
  // at 100 % blocks are flat
  await page.getByRole('button', { name: '100 %', exact: true }).click()
  const s = await shown(page)
  const x0 = Math.ceil((0 - s.x) / 32) * 32 + s.x
  const pixel = (x: number, y: number) => [...s.data.subarray((y * s.w + x) * 4, (y * s.w + x) * 4 + 3)].join()
  const y0 = Math.ceil((0 - s.y) / 32) * 32 + s.y
  expect(pixel(x0 + 1, y0 + 1)).toBe(pixel(x0 + 30, y0 + 30))
  await page.getByRole('button', { name: 'Whole sheet' }).click()
  // the gradient goes in by soft light, faintly, between its tones
  await addStep(page, 'Gradient map')
  await page.getByRole('button', { name: 'Built-in gradients' }).click()
  await page.getByRole('menuitem', { name: 'Kiln' }).click()
  const full = await shown(page)
  await choose(page, 'Blend', 'Soft light')
  await set(page, 'Opacity', '40')
  const faint = await shown(page)
  expect(difference(full, faint)).toBeGreaterThan(5)
  await page.getByRole('switch', { name: 'Tonal span' }).focus()
  await page.keyboard.press('Space')
  await page.getByRole('slider', { name: 'Full from' }).focus()
  for (let i = 0; i < 10; i++) await page.keyboard.press('ArrowRight')
  await expect(page.getByText('Zones IV to IX')).toBeVisible()
  expect(difference(faint, await shown(page))).toBeGreaterThan(0.3)
  // looks well: the blocks are switched off
  await row(page, 'Photo').getByRole('checkbox', { name: 'Pixel blocks on' }).uncheck()
  await reopened(page)
})

test('tiles with gaps, the grid dragged over the picture', async ({ enter }) => {
  test.setTimeout(240_000)
  const page = await enter()
  await begin(page, 'Lantern stall at dusk')
  await addStep(page, 'Pixel blocks')
  await set(page, 'Joint', '6')
  await choose(page, 'Rows', 'Staggered by a half')
  await page.getByRole('button', { name: /^Joint colour/ }).click()
  await page.getByLabel('Joint colour, hex').fill('#ff2200')
  await page.keyboard.press('Escape')
  const before = await shown(page)
  const red = (s: typeof before) => {
    let n = 0
    for (let i = 0; i < s.data.length; i += 4) if (s.data[i]! > 150 && s.data[i + 1]! < 90 && s.data[i + 2]! < 90) n++
    return n / (s.data.length / 4)
  }
  expect(red(before)).toBeGreaterThan(0.02)
  // the handle in the picture drags the grid; one drag is one step back
  const handle = page.getByRole('button', { name: /^Grid at/ })
  const at = (await handle.boundingBox())!
  await page.mouse.move(at.x + 12, at.y + 12)
  await page.mouse.down()
  await page.mouse.move(at.x + 17, at.y + 15, { steps: 4 })
  await page.mouse.up()
  const moved = await shown(page)
  expect(difference(before, moved)).toBeGreaterThan(2)
  await page.keyboard.press('Control+z')
  expect(difference(before, await shown(page))).toBe(0)
  await page.keyboard.press('Control+Shift+z')
  expect(difference(moved, await shown(page))).toBe(0)
  await reopened(page)
})

test('the bench: proof sheet, kept values, copied steps, values only, mirror, colour from the picture, the rose', async ({ enter }) => {
  test.setTimeout(360_000)
  const page = await enter()
  await begin(page, 'The boathouse')
  await pickerFilled(page)
  // each recipe says how it will take on this photo
  await expect(page.locator('[data-part="picker"] [data-part="taking"]').first()).toBeVisible()
  expect(await page.locator('[data-part="picker"] [data-part="taking"][data-holds]').allTextContents()).toContain('will hold')
  // resting on one tries it in the large picture; Escape brings the photo back
  const photo = await mean(page)
  await page
    .getByRole('dialog', { name: 'Picker' })
    .getByRole('button', { name: /^Invert on/ })
    .hover()
  await expect(page.getByText('Trying; click keeps it')).toBeVisible()
  await expect.poll(async () => Math.abs((await mean(page))[0] - photo[0])).toBeGreaterThan(0.05)
  await page.keyboard.press('Escape')
  await expect.poll(async () => Math.abs((await mean(page))[0] - photo[0])).toBeLessThan(0.01)

  // the histogram follows, clipping is marked
  await addStep(page, 'Levels')
  await expect(page.locator('[data-part="histogram"] svg path').first()).toBeVisible()
  await set(page, 'Black point', '120')
  await expect(page.locator('[data-part="histogram"]')).toContainText(/% black/)

  // a proof sheet: nine midtones, one taken
  await page.getByRole('button', { name: 'Proof sheet: try values side by side' }).click()
  const sheet = page.getByRole('dialog', { name: 'Proof sheet of Levels' })
  await sheet.getByRole('combobox', { name: 'Varied', exact: true }).click()
  await page.getByRole('option', { name: 'Midtone', exact: true }).click()
  await expect(sheet.locator('figure')).toHaveCount(9)
  await expect(sheet.locator('canvas[data-made]')).toHaveCount(9, { timeout: 20_000 })
  const name = await sheet.locator('figcaption > span').nth(7).textContent()
  await sheet.locator('figure button').nth(14).click()
  await sheet.getByRole('button', { name: 'Take' }).click()
  await expect(sheet).toHaveCount(0)
  await expect(page.locator('[data-part="tuning"]').getByLabel('Midtone', { exact: true })).toHaveValue(name!.replace('Midtone ', ''))
  await expect(page.getByRole('button', { name: /^Undo: Levels: Midtone/ })).toBeVisible()

  // values kept under a name, put back, taken again
  await page.getByRole('button', { name: 'Kept values' }).click()
  await page.getByLabel('Name for these values').fill('Hard')
  await page.getByRole('button', { name: 'Keep', exact: true }).click()
  await page.keyboard.press('Escape')
  await page.getByRole('button', { name: 'Kept values' }).click()
  await page.getByRole('menuitem', { name: 'As it came' }).click()
  await expect(page.locator('[data-part="tuning"]').getByLabel('Black point', { exact: true })).toHaveValue('0')
  await page.getByRole('button', { name: 'Kept values' }).click()
  await page.getByRole('menuitem', { name: /^Hard/ }).click()
  await expect(page.locator('[data-part="tuning"]').getByLabel('Black point', { exact: true })).toHaveValue('120')
  // forgotten, and brought back
  await page.getByRole('button', { name: 'Kept values' }).click()
  await page.getByRole('button', { name: 'Forget “Hard”' }).click()
  await expect(page.getByRole('menuitem', { name: /^Hard/ })).toHaveCount(0)
  await page.getByRole('alert').getByRole('button', { name: 'Undo' }).click()
  await page.keyboard.press('Escape')
  await page.getByRole('button', { name: 'Kept values' }).click()
  await expect(page.getByRole('menuitem', { name: /^Hard/ })).toBeVisible()
  await page.keyboard.press('Escape')

  // only the view is turned, mirrored, grey
  const upright = await shown(page)
  await page.getByRole('button', { name: 'Values only' }).click()
  await expect(page.locator('[data-part="easel"] canvas[data-scale]')).toHaveCSS('filter', 'grayscale(1)')
  await page.getByRole('button', { name: 'Values only' }).click()
  await page.getByRole('button', { name: 'Mirror the view' }).click()
  const mirrored = await shown(page)
  const at = (s: typeof upright, x: number, y: number) => s.data[(y * s.w + x) * 4]!
  let off = 0
  for (let y = 40; y < upright.h - 40; y += 7)
    for (let x = 40; x < upright.w - 40; x += 7) off += Math.abs(at(upright, x, y) - at(mirrored, upright.w - 1 - x, y))
  expect(off / ((upright.h / 7) * (upright.w / 7))).toBeLessThan(8)
  await page.getByRole('button', { name: 'Mirror the view' }).click()
  await page.getByRole('button', { name: 'Turn the view' }).click()
  await settled(page)
  for (let i = 0; i < 3; i++) await page.getByRole('button', { name: 'Turn the view' }).click()
  // aslant, and upright again
  await page.keyboard.press('Shift+r')
  expect(difference(upright, await shown(page))).toBeGreaterThan(2)
  await page.keyboard.press('r')
  for (let i = 0; i < 3; i++) await page.keyboard.press('r')
  // the browser's resampling may round a pixel or two the other way
  expect(difference(upright, await shown(page))).toBeLessThan(0.001)

  // a colour is picked from the picture
  await addStep(page, 'Vignette')
  await page.getByRole('button', { name: 'Pick fades into from the picture' }).click()
  await expect(page.getByText('Click a colour in the picture; Escape leaves it')).toBeVisible()
  const s = await shown(page)
  const easel = (await page.locator('[data-part="easel"]').boundingBox())!
  const [px, py] = [Math.round(s.w / 2), Math.round(s.h / 2)]
  const under = [...s.data.subarray((py * s.w + px) * 4, (py * s.w + px) * 4 + 3)].map((v) => v.toString(16).padStart(2, '0')).join('')
  await page.mouse.click(easel.x + px + 0.5, easel.y + py + 0.5)
  await expect(page.getByRole('button', { name: `Fades into, #${under}` })).toBeVisible()

  // the rose: edges that face one way are taken out
  await addStep(page, 'Contours')
  const all = (await mean(page))[0]
  const sector = page.getByRole('slider', { name: 'Edges that face 90°' })
  await sector.focus()
  await page.keyboard.press('Delete')
  await expect(sector).toHaveAttribute('aria-valuenow', '0')
  expect((await mean(page))[0]).toBeGreaterThan(all)

  // steps are carried to another artwork
  await openRow(page, 'Photo')
  await page.keyboard.press('Control+c')
  await expect(page.getByText('3 steps copied.')).toBeVisible()
  const copied = await values(page)
  await page.goto(new URL('/', page.url()).href)
  await begin(page, 'Heron on a post')
  await page.getByRole('button', { name: 'Close', exact: true }).click()
  await openRow(page, 'Photo')
  await page.keyboard.press('Control+v')
  await expect(row(page, 'Photo').locator('[data-part="held"] [data-part="cap"]')).toHaveText(['Levels', 'Vignette', 'Contours'])
  expect(await values(page)).toEqual(copied)
  await page.keyboard.press('Control+z')
  await expect(row(page, 'Photo').locator('[data-part="held"]')).toHaveCount(0)
})

test('a relief by another picture: chosen from the desk, kept in the artwork', async ({ enter }) => {
  const page = await enter()
  await begin(page, 'Heron on a post')
  await addStep(page, 'Surface relief')
  await choose(page, 'Surface', 'From a picture')
  await set(page, 'Depth', '80')
  const photo = await shown(page)
  await page.getByRole('button', { name: 'Picture: None' }).click()
  await page.getByRole('option', { name: 'Canvas.jpg' }).click()
  await expect(page.getByRole('button', { name: 'Picture: Canvas.jpg' })).toBeVisible()
  await settled(page)
  expect(difference(photo, await shown(page))).toBeGreaterThan(0.01)
  // the lamp is the artwork's: moved by keys and by typing, undone
  const lit = await shown(page)
  await page.getByRole('slider', { name: 'Lamp', exact: true }).focus()
  for (let i = 0; i < 6; i++) await page.keyboard.press('Shift+ArrowLeft')
  await settled(page)
  expect(difference(lit, await shown(page))).toBeGreaterThan(0.01)
  await set(page, 'Lamp high', '20')
  await page.keyboard.press('Control+z')
  await page.keyboard.press('Control+z')
  await settled(page)
  expect(difference(lit, await shown(page))).toBeLessThan(0.001)
  // at half the resolution 60 mm are half as many pixels
  await page.getByRole('button', { name: /^Sheet: 1920 × 1280 pixels, 164 ppi/ }).click()
  await page.getByLabel('Resolution').fill('82')
  await page.keyboard.press('Enter')
  await expect(page.getByText(/^595 × 396 mm/)).toBeVisible()
  await page.keyboard.press('Escape')
  await settled(page)
  expect(difference(lit, await shown(page))).toBeGreaterThan(0.01)
  await reopened(page)
  await expect(page.getByRole('button', { name: 'Picture: Canvas.jpg' })).toBeVisible()
  // undone in one go
  await page.getByRole('button', { name: 'Picture: Canvas.jpg' }).click()
  await page.getByRole('button', { name: 'None', exact: true }).click()
  await settled(page)
  expect(difference(photo, await shown(page))).toBeLessThan(0.001)
})

test('recipes of lines, of paint, of print and of panels are put on a photo, saved, and opened again as they were', async ({ enter }) => {
  test.setTimeout(360_000)
  const page = await enter()
  for (const title of ['Pencil drawing', 'Wash and ink', 'Newspaper print', 'Panel sheet']) {
    await page.goto(new URL('/', page.url()).href)
    await begin(page, 'The boathouse')
    const photo = await mean(page)
    await page
      .getByRole('dialog', { name: 'Picker' })
      .getByRole('button', { name: new RegExp(`^${title} on this photo`) })
      .click()
    await expect(page.getByRole('heading', { name: title, exact: true })).toBeVisible()
    await settled(page)
    const made = await shown(page)
    expect(Math.max(...(await mean(page)).map((v, c) => Math.abs(v - photo[c]!)))).toBeGreaterThan(0.01)
    await saved(page)
    await page.reload()
    await page.locator('[data-part="row"]').first().waitFor()
    await settled(page)
    expect(difference(made, await shown(page))).toBeLessThan(0.001)
  }
})

test('a vignette is dragged on the picture; the tick, ? from anywhere, and no zoom below a third of fit', async ({ enter }) => {
  const page = await enter()
  await begin(page, 'Tin boats')
  await addStep(page, 'Vignette')
  await settled(page)
  const before = await mean(page)
  const rim = page.getByRole('button', { name: /^Clear part, right rim/ })
  const from = (await rim.boundingBox())!
  await page.mouse.move(from.x + 12, from.y + 12)
  await page.mouse.down()
  await page.mouse.move(from.x - 50, from.y + 12, { steps: 6 })
  await page.mouse.up()
  await settled(page)
  // less stays clear, on both sides of the middle
  const left = (await page.getByRole('button', { name: /^Clear part, left rim/ }).boundingBox())!
  const right = (await rim.boundingBox())!
  expect(right.x).toBeLessThan(from.x - 40)
  const middle = (await page.getByRole('button', { name: /^Clear part, middle/ }).boundingBox())!
  expect(Math.abs(left.x + right.x - 2 * middle.x)).toBeLessThan(2)
  expect((await mean(page))[0]).toBeLessThan(before[0])
  await rim.focus()
  await page.keyboard.press('Shift+ArrowRight')
  expect((await rim.boundingBox())!.x).toBeGreaterThan(right.x)
  const tick = page.getByRole('checkbox', { name: 'Step is on' })
  await tick.uncheck()
  await expect(page.getByRole('button', { name: /^Undo: / })).toBeVisible()
  // the focus is on the tick, which takes no text
  await page.keyboard.press('?')
  await expect(page.getByRole('dialog', { name: 'Shortcuts' })).toBeVisible()
  await page.keyboard.press('Escape')
  await page.keyboard.press('0')
  const scale = async () => Number(await page.locator('[data-part="easel"] canvas[data-scale]').getAttribute('data-scale'))
  const fit = await scale()
  for (let i = 0; i < 8; i++) await page.getByRole('button', { name: 'Zoom out' }).click()
  expect(await scale()).toBeCloseTo(fit / 3, 6)
})
