import { expect, type Page } from '@playwright/test'

/** Waits until the large picture has settled: it shows the full-size result, reduced. */
export async function settled(page: Page): Promise<void> {
  await page.locator('[data-part="easel"][data-settled]').waitFor()
  // two frames, so that what has come is drawn
  await page.evaluate(() => new Promise((r) => requestAnimationFrame(() => requestAnimationFrame(r))))
}

export interface Shown {
  scale: number
  /** Window position of artwork (0, 0). */
  x: number
  y: number
  w: number
  h: number
  data: Buffer
}

/** The pixels on the canvas (RGBA, 8 bits), and how the artwork lies in it. */
export async function shown(page: Page): Promise<Shown> {
  await settled(page)
  const { text, ...rest } = await page.locator('[data-part="easel"] canvas[data-scale]').evaluate((c: HTMLCanvasElement) => {
    const image = c.getContext('2d')!.getImageData(0, 0, c.width, c.height)
    // as text: a list of numbers would take seconds to pass
    let bytes = ''
    for (let i = 0; i < image.data.length; i += 32768) bytes += String.fromCharCode(...image.data.subarray(i, i + 32768))
    const text = btoa(bytes)
    return { scale: Number(c.dataset.scale), x: Number(c.dataset.x), y: Number(c.dataset.y), w: c.width, h: c.height, text }
  })
  return { ...rest, data: Buffer.from(text, 'base64') }
}

/** How much two canvases differ: mean of the red channel, 0…255. */
export function difference(a: Shown, b: Shown): number {
  let sum = 0
  for (let i = 0; i < a.data.length; i += 4) sum += Math.abs(a.data[i]! - b.data[i]!)
  return sum / (a.data.length / 4)
}

export const row = (page: Page, name: string) => page.getByRole('group', { name: `Layer ${name}`, exact: true })
export const proof = (page: Page, layer: string, title: string) => row(page, layer).locator('[data-part="held"] [data-part="proof"]', { hasText: title })

/** Titles of a row's steps, in order. */
export async function chain(page: Page, layer: string): Promise<string[]> {
  return row(page, layer).locator('[data-part="held"] [data-part="cap"]').allTextContents()
}

export async function openRow(page: Page, layer: string): Promise<void> {
  await row(page, layer).locator('[data-part="who"]').click()
  await expect(row(page, layer)).toHaveAttribute('data-open', 'true')
}

export async function saved(page: Page): Promise<void> {
  await expect(page.locator('[data-save]')).toHaveAttribute('data-save', 'saved')
}

/** Waits until the picker shows every recipe and step on the photo. */
export async function pickerFilled(page: Page): Promise<void> {
  await page.waitForFunction(() => {
    const all = [...document.querySelectorAll<HTMLCanvasElement>('[data-part="picker"] canvas')]
    const inSight = all.filter((c) => c.dataset.seen === 'yes')
    return all.length > 40 && inSight.length > 0 && inSight.every((c) => c.dataset.made)
  })
}
