import type { Page } from '@playwright/test'
import { difference, settled, shown } from './bench-page.ts'
import { begin } from './by-hand.ts'
import { brush, handle, onScreen, type At } from './brush.ts'
import { expect, test } from './studio.ts'

// What hands do by a finger that is mostly done by a mouse.

test.use({ hasTouch: true })

/** A finger that comes down, goes through places of the window and is lifted. */
async function finger(page: Page, places: readonly (readonly [number, number])[]): Promise<void> {
  const client = await page.context().newCDPSession(page)
  const send = (type: 'touchStart' | 'touchMove' | 'touchEnd', at?: readonly [number, number]) =>
    client.send('Input.dispatchTouchEvent', { type, touchPoints: at ? [{ x: at[0], y: at[1], id: 1 }] : [] })
  await send('touchStart', places[0])
  for (const at of places.slice(1)) await send('touchMove', at)
  await send('touchEnd')
  await client.detach()
}
const along = (from: readonly [number, number], dx: number, dy: number) =>
  Array.from({ length: 9 }, (_, i) => [from[0] + (dx * i) / 8, from[1] + (dy * i) / 8] as const)
const middle = async (page: Page, name: RegExp): Promise<[number, number]> => {
  const box = (await handle(page, name).boundingBox())!
  return [box.x + box.width / 2, box.y + box.height / 2]
}

test('a layer is placed, the frame drawn in, a spot mended, by one finger', async ({ enter }) => {
  test.setTimeout(240_000)
  const page = await enter()
  await begin(page, 'Marsh at sunset')
  await page.keyboard.press('Escape')
  await settled(page)
  // the frame's corner
  await page.keyboard.press('f')
  await settled(page)
  await finger(page, along(await middle(page, /^Upper left corner of the sheet/), 60, 40))
  await expect(page.getByRole('button', { name: 'Undo: Crop' })).toBeVisible()
  await page.keyboard.press('Control+z')
  await page.keyboard.press('Escape')
  // the layer itself, by its middle
  await page.keyboard.press('l')
  await settled(page)
  const easel = (await page.locator('[data-part="easel"]').boundingBox())!
  await finger(page, along([easel.x + easel.width / 2, easel.y + easel.height / 2], 40, 30))
  await expect(page.getByRole('button', { name: /^Undo: Move/ })).toBeVisible()
  await page.keyboard.press('Control+z')
  await page.keyboard.press('Escape')
  // a spot
  await page.keyboard.press('n')
  await brush(page, { breadth: 90, cover: 100, most: 100 })
  await settled(page)
  const before = await shown(page)
  const at = await onScreen(page)
  const places: At[] = [
    [1250, 1010],
    [1300, 1010],
    [1350, 1015],
  ]
  await finger(page, places.map(at))
  await expect(page.getByRole('button', { name: 'Another source' })).toBeEnabled()
  await settled(page)
  expect(difference(before, await shown(page))).toBeGreaterThan(0.01)
})
