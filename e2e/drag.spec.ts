import { openRow, proof, row, settled } from './bench-page.ts'
import { ownPhoto } from './own-photo.ts'
import { expect, test } from './studio.ts'

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

const median = (v: number[]) => Math.round([...v].sort((a, b) => a - b)[Math.floor(v.length / 2)] ?? 0)
const late = (v: number[]) => Math.round([...v].sort((a, b) => a - b)[Math.floor(v.length * 0.95)] ?? 0)

test('while a control is dragged the picture follows, coarse before fine, and only the newest is drawn', async ({ enter, page }, info) => {
  // every message between the page and its engine workers, with its time; and tasks that held the page up
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
  await enter()
  const own = info.outputPath('Dragged.jpg')
  await ownPhoto(own, 90)
  await page.locator('input[type="file"]').setInputFiles(own)
  await page.getByRole('button', { name: 'Begin an artwork from Dragged.jpg' }).click()
  await page
    .getByRole('dialog', { name: 'Picker' })
    .getByRole('button', { name: /Graphite/ })
    .click()
  await row(page, 'Pencil lines').waitFor()
  await settled(page)
  await openRow(page, 'Pencil lines')
  await proof(page, 'Pencil lines', 'Gaussian blur').click()
  await page.waitForTimeout(1000)
  const thumb = (await page.getByRole('slider', { name: 'Sigma, slider' }).boundingBox())!
  await page.evaluate(() => {
    window.heard = []
    window.long = []
  })
  await page.mouse.move(thumb.x + 6, thumb.y + 6)
  await page.mouse.down()
  for (let i = 0; i < 60; i++) {
    await page.mouse.move(thumb.x + 6 + Math.sin(i / 8) * 60, thumb.y + 6)
    await page.waitForTimeout(25)
  }
  await page.mouse.up()
  await settled(page)
  const { heard, long } = await page.evaluate(() => ({ heard: window.heard, long: window.long }))

  const asks = heard.filter((h) => h.what === 'ask view')
  expect(asks.length).toBeGreaterThan(30)
  const coarse: number[] = []
  const fine: number[] = []
  for (const ask of asks) {
    const levels = heard.filter((h) => h.what === 'level-done' && h.id === ask.id)
    // a view that is answered is answered coarse first
    if (levels[0]) expect(levels[0].level).toBe(ask.level)
    if (levels[0]) coarse.push(levels[0].at - ask.at)
    if (levels[1]) {
      expect(levels[1].level).toBe(ask.level - 1)
      fine.push(levels[1].at - ask.at)
    }
    // never more than one frame queued: when the next but one view is asked for, no tile of this one comes any more
    const next = asks[asks.indexOf(ask) + 2]
    if (next) expect(heard.filter((h) => h.what === 'tile' && h.id === ask.id && h.at > next.at + 200)).toEqual([])
  }
  // the picture followed: most of the views were drawn while the hand moved, the last one finely
  expect(coarse.length).toBeGreaterThan(asks.length / 2)
  expect(heard.some((h) => h.what === 'level-done' && h.id === asks.at(-1)!.id && h.level === asks.at(-1)!.level - 1)).toBe(true)
  const told = `coarse ${median(coarse)} ms (95th percentile ${late(coarse)}), fine ${median(fine)} ms; tasks over 50 ms on the main thread: ${long.length} (longest ${Math.max(0, ...long)} ms)`
  info.annotations.push({ type: 'drag, 6 megapixels', description: told })
  console.log(`    ${told}`)
})
