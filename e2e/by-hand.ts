import { expect, type Page } from '@playwright/test'
import { openRow, row, saved, settled, shown, type Shown } from './bench-page.ts'

// What an illustrator does on the bench, one call a gesture.

/** Begins an artwork from a demo photo; the picker stands open. */
export async function begin(page: Page, photo: string): Promise<void> {
  await page.getByRole('button', { name: `Begin an artwork from ${photo}.jpg` }).click()
  await page.getByRole('dialog', { name: 'Picker' }).waitFor()
}

/** Adds a step at the end of the open row's chain, by the picker's search. */
export async function addStep(page: Page, title: string): Promise<void> {
  const picker = page.getByRole('dialog', { name: 'Picker' })
  if (!(await picker.isVisible())) await page.locator('[data-part="row"][data-open] [data-part="gap"]').last().click()
  await page.getByLabel('Search steps and recipes').fill(title)
  await picker.getByRole('button', { name: new RegExp(`^${title} on this photo`) }).click()
  await expect(page.getByRole('heading', { name: title, exact: true })).toBeVisible()
}

/** Types a value into a field of the tuning column. */
export async function set(page: Page, label: string, value: string): Promise<void> {
  const field = page.locator('[data-part="tuning"]').getByLabel(label, { exact: true })
  await field.fill(value)
  await field.press('Tab')
}

/** Chooses one of a control's ways. */
export async function choose(page: Page, label: string, option: string): Promise<void> {
  await page.locator('[data-part="tuning"]').getByRole('combobox', { name: label, exact: true }).click()
  await page.getByRole('option', { name: option, exact: true }).click()
}

/** Adds a layer above the open one. */
export async function addLayer(page: Page, from: string | RegExp): Promise<void> {
  await page.getByRole('button', { name: 'Layer', exact: true }).click()
  await page.getByRole('menuitem', { name: from }).click()
}

/** Does to a layer what its menu has: *Shown*, *Alone*, *Delete*… */
export async function deed(page: Page, layer: string, what: string): Promise<void> {
  await row(page, layer).locator('[data-part="who"]').click({ button: 'right' })
  await page.getByRole('menu').getByText(what, { exact: true }).first().click()
}

/** The share of red, green and blue (0…1) over the picture on the canvas. */
export async function mean(page: Page): Promise<[number, number, number]> {
  return meanOf(await shown(page))
}
function meanOf(s: Shown): [number, number, number] {
  const sums = [0, 0, 0]
  let n = 0
  for (let i = 0; i < s.data.length; i += 4) {
    if (s.data[i + 3] === 0) continue
    for (let c = 0; c < 3; c++) sums[c]! += s.data[i + c]!
    n++
  }
  return sums.map((v) => v / n / 255) as [number, number, number]
}

/** Every value of every step, layer by layer, as the tuning column shows them. */
export async function values(page: Page): Promise<Record<string, string[]>> {
  const found: Record<string, string[]> = {}
  for (const name of await page.locator('[data-part="row"] [data-part="who"] b').allTextContents()) {
    await openRow(page, name)
    found[name] = await fields(page)
    // two of one kind may follow each other
    const proofs = row(page, name).locator('[data-part="held"] [data-part="proof"]', { has: page.locator('[data-part="cap"]') })
    for (let i = 0; i < (await proofs.count()); i++) {
      const title = (await proofs.nth(i).locator('[data-part="cap"]').textContent())!
      await proofs.nth(i).click()
      await expect(page.getByRole('heading', { name: title, exact: true })).toBeVisible()
      found[`${name} / ${i + 1} ${title}`] = await fields(page)
    }
  }
  return found
}
const fields = (page: Page) =>
  page.locator('[data-part="tuning"]').evaluate((column) => [
    ...[...column.querySelectorAll<HTMLInputElement>('[data-part="controls"] input, [data-part="pinned"] input')].map((i) =>
      i.type === 'checkbox' ? String(i.checked) : i.value,
    ),
    // editors drawn by hand tell their values to assistive technology
    ...[...column.querySelectorAll('[data-part="controls"] [role="slider"], [data-part="pinned"] [role="slider"]')].map(
      (s) => `${s.getAttribute('aria-label')} ${s.getAttribute('aria-valuetext') ?? s.getAttribute('aria-valuenow')}`,
    ),
    ...[...column.querySelectorAll('[data-part="swatch"]')].map((s) => s.getAttribute('aria-label') ?? ''),
  ])

/** Saves, opens the artwork anew, and expects every value where it was, and the same picture. */
export async function reopened(page: Page): Promise<void> {
  const before = await values(page)
  await saved(page)
  const picture = await mean(page)
  await page.reload()
  await page.locator('[data-part="row"]').first().waitFor()
  await settled(page)
  expect(await values(page)).toEqual(before)
  const after = await mean(page)
  // the outermost row of pixels may show a trace of a coarser view
  after.forEach((v, c) => expect(v).toBeCloseTo(picture[c]!, 2))
}
