import type { Page } from '@playwright/test'

interface Heard {
  what: string
  id: number
  level: number
  at: number
}
declare global {
  interface Window {
    heard: Heard[]
    long: number[]
  }
}

/** Notes every message between the page and its engine worker, with its time, and tasks that held the page up. Before the page is opened. */
export async function watch(page: Page): Promise<void> {
  await page.addInitScript(() => {
    const Plain = window.Worker
    window.heard = []
    window.long = []
    const note = (what: string, m: { id?: number; level?: number; levels?: number[] }) =>
      window.heard.push({ what, id: m.id ?? 0, level: m.level ?? m.levels?.[0] ?? -1, at: performance.now() })
    window.Worker = class extends Plain {
      constructor(...a: ConstructorParameters<typeof Worker>) {
        super(...a)
        this.addEventListener('message', (e: MessageEvent<{ type: string }>) => note(e.data.type, e.data as { id?: number; level?: number }))
      }
      override postMessage(m: unknown, options?: unknown) {
        note(`ask ${(m as { type: string }).type}`, m as { id: number })
        super.postMessage(m, options as Transferable[])
      }
    }
    new PerformanceObserver((l) => window.long.push(...l.getEntries().map((e) => Math.round(e.duration)))).observe({ type: 'longtask' })
  })
}

export interface Drag {
  views: { id: number; level: number; at: number; coarse: number | null; fine: number | null; fineLevel: number | null }[]
  /** Tiles that came for a view more than 200 ms after the next but one had been asked for. */
  stale: number
  long: number[]
  /** From letting go to the settled picture. */
  settled: number
}

/** Drags the thumb of a slider to and fro for about two seconds, and says what came of it. */
export async function drag(page: Page, slider: string, settled: (page: Page) => Promise<void>): Promise<Drag> {
  const thumb = (await page.getByRole('slider', { name: slider }).boundingBox())!
  return dragFrom(page, { x: thumb.x + 6, y: thumb.y + 6 }, settled)
}

/** The same from a place in the window. */
export async function dragFrom(page: Page, from: { x: number; y: number }, settled: (page: Page) => Promise<void>): Promise<Drag> {
  await page.evaluate(() => {
    window.heard = []
    window.long = []
  })
  await page.mouse.move(from.x, from.y)
  await page.mouse.down()
  for (let i = 0; i < 60; i++) {
    await page.mouse.move(from.x + Math.sin(i / 8) * 60, from.y)
    await page.waitForTimeout(25)
  }
  await page.mouse.up()
  const released = await page.evaluate(() => performance.now())
  await settled(page)
  const { heard, long, now } = await page.evaluate(() => ({ heard: window.heard, long: window.long, now: performance.now() }))
  const asks = heard.filter((h) => h.what === 'ask view')
  const views = asks.map((ask) => {
    const levels = heard.filter((h) => h.what === 'level-done' && h.id === ask.id)
    const [coarse, fine] = levels
    return {
      id: ask.id,
      level: ask.level,
      at: ask.at,
      coarse: coarse ? coarse.at - ask.at : null,
      fine: fine ? fine.at - ask.at : null,
      fineLevel: fine?.level ?? null,
    }
  })
  const stale = asks.reduce((n, ask, i) => {
    const next = asks[i + 2]
    return n + (next ? heard.filter((h) => h.what === 'tile' && h.id === ask.id && h.at > next.at + 200).length : 0)
  }, 0)
  return { views, stale, long, settled: now - released }
}

export const median = (v: number[]): number => Math.round([...v].sort((a, b) => a - b)[Math.floor(v.length / 2)] ?? 0)
export const late = (v: number[]): number => Math.round([...v].sort((a, b) => a - b)[Math.floor(v.length * 0.95)] ?? 0)

export interface Painted {
  /** From samples sent to the next pixels under the brush. */
  lags: number[]
  long: number[]
  /** From the lift to the settled picture. */
  settled: number
}

/** Paints over the middle of the picture for about two seconds with the brush in hand, and says what came of it. */
export async function paint(page: Page, settled: () => Promise<void>): Promise<Painted> {
  const box = (await page.locator('[data-part="easel"]').boundingBox())!
  await page.locator('[data-part="easel"][data-ready]').waitFor({ timeout: 60_000 })
  await page.evaluate(() => {
    window.heard = []
    window.long = []
  })
  const at = (i: number): [number, number] => [box.x + box.width * (0.5 + 0.2 * Math.sin(i / 14)), box.y + box.height * (0.5 + 0.25 * Math.sin(i / 9))]
  await page.mouse.move(...at(0))
  await page.mouse.down()
  for (let i = 1; i < 100; i++) {
    await page.mouse.move(...at(i))
    await page.waitForTimeout(16)
  }
  await page.mouse.up()
  const released = await page.evaluate(() => performance.now())
  await page.waitForFunction(() => window.heard.some((h) => h.what === 'painted'))
  await settled()
  const { heard, long, now } = await page.evaluate(() => ({ heard: window.heard, long: window.long, now: performance.now() }))
  const id = heard.find((h) => h.what === 'painted')!.id
  const tiles = heard.filter((h) => h.what === 'tile' && h.id === id)
  const lags = heard
    .filter((h) => h.what === 'ask stroke-goes')
    .flatMap((ask) => {
      const shown = tiles.find((t) => t.at > ask.at)
      return shown ? [shown.at - ask.at] : []
    })
  return { lags, long, settled: now - released }
}
