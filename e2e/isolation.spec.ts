import type { Page } from '@playwright/test'
import { difference, row, settled, shown } from './bench-page.ts'
import { expect, test } from './studio.ts'

/** Serves the pages as a host does that cannot set the headers of cross-origin isolation. */
async function withoutIsolation(page: Page): Promise<void> {
  await page.route('**/*', async (route) => {
    const response = await route.fetch()
    const headers = { ...response.headers() }
    for (const name of ['cross-origin-opener-policy', 'cross-origin-embedder-policy', 'cross-origin-resource-policy']) delete headers[name]
    await route.fulfill({ response, headers })
  })
}

async function sketch(page: Page): Promise<void> {
  await page.getByRole('button', { name: 'Begin an artwork from The lantern keeper.jpg' }).click()
  await page
    .getByRole('dialog', { name: 'Picker' })
    .getByRole('button', { name: /Graphite/ })
    .click()
  await row(page, 'Pencil lines').waitFor()
  await settled(page)
  await page.keyboard.press('1')
  await settled(page)
}

test('without cross-origin isolation the picture is the same, by one thread a worker', async ({ enter, page, browser, studio }) => {
  await enter()
  expect(await page.evaluate(() => crossOriginIsolated)).toBe(true)
  await sketch(page)
  const isolated = await shown(page)
  const plain = await (await browser.newContext({ viewport: page.viewportSize()! })).newPage()
  await withoutIsolation(plain)
  await plain.goto(studio.url)
  await plain.getByRole('button', { name: 'Enter the demo studio' }).click()
  expect(await plain.evaluate(() => crossOriginIsolated)).toBe(false)
  await sketch(plain)
  const alone = await shown(plain)
  expect([alone.w, alone.h, alone.scale]).toEqual([isolated.w, isolated.h, isolated.scale])
  expect(difference(alone, isolated)).toBe(0)
  await plain.context().close()
})
