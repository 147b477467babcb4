import { appendFileSync } from 'node:fs'
import type { Page } from '@playwright/test'
import { openRow, proof, row, settled } from './bench-page.ts'
import { mosaicPhoto, ownPhoto } from './own-photo.ts'
import { artworkFromPhoto, newLayer, placed } from '@nimble-quill/core'
import { expect, test } from './studio.ts'
import { eightSteps, twelveSteps } from '@nimble-quill/core/testing/chains'
import { artworkOf } from './artwork-of.ts'
import { brush, doing } from './brush.ts'
import { drag, dragFrom, late, median, paint, watch, type Drag, type Painted } from './watch.ts'

/** What any drag must show, however slow the machine. */
function follows({ views, stale }: Drag): { coarse: number[]; fine: number[] } {
  expect(views.length).toBeGreaterThan(30)
  const coarse = views.flatMap((v) => v.coarse ?? [])
  const fine = views.flatMap((v) => v.fine ?? [])
  // the picture followed: most of the views were drawn while the hand moved, the last one finely
  expect(coarse.length).toBeGreaterThan(views.length / 2)
  // one level coarser than the fine picture; more only where the machine lags behind the hand
  for (const v of views) if (v.fineLevel !== null) expect([1, 2, 3]).toContain(v.level - v.fineLevel)
  expect(views.at(-1)!.fine).not.toBeNull()
  // never more than one frame queued
  expect(stale).toBe(0)
  return { coarse, fine }
}

function tell(what: string, d: Drag, { coarse, fine }: { coarse: number[]; fine: number[] }): string {
  const measured = {
    what,
    coarseMedian: median(coarse),
    coarseLate: late(coarse),
    fineMedian: median(fine),
    fineLast: Math.round(d.views.at(-1)!.fine!),
    settled: Math.round(d.settled),
    lagging: d.views.filter((v) => v.fineLevel !== null && v.level - v.fineLevel > 1).length,
    longTasks: d.long.length,
    longest: Math.max(0, ...d.long),
  }
  if (process.env.QUILL_MEASURED) appendFileSync(process.env.QUILL_MEASURED, `${JSON.stringify(measured)}\n`)
  const m = measured
  const told = `coarse ${m.coarseMedian} ms (95th percentile ${m.coarseLate}), fine ${m.fineMedian} ms (last ${m.fineLast}), settled ${m.settled} ms after the hand; ${m.lagging} of ${d.views.length} coarser than half the view; tasks over 50 ms on the main thread: ${m.longTasks} (longest ${m.longest} ms)`
  console.log(`    ${what}: ${told}`)
  return told
}

function tellPainted(what: string, { lags, long, settled }: Painted): string {
  const m = { kind: 'paint', what, median: median(lags), late: late(lags), settled: Math.round(settled), longTasks: long.length, longest: Math.max(0, ...long) }
  if (process.env.QUILL_MEASURED) appendFileSync(process.env.QUILL_MEASURED, `${JSON.stringify(m)}\n`)
  const told = `under the brush after ${m.median} ms (95th percentile ${m.late}), settled ${m.settled} ms after the lift; tasks over 50 ms on the main thread: ${m.longTasks} (longest ${m.longest} ms)`
  console.log(`    ${what}: ${told}`)
  return told
}

async function addPhoto(page: Page, path: string): Promise<void> {
  await page.locator('input[type="file"]').setInputFiles(path)
}

test('while a control is dragged the picture follows, coarse before fine, and only the newest is drawn', async ({ enter, page }, info) => {
  await watch(page)
  await enter()
  const own = info.outputPath('Dragged.jpg')
  await ownPhoto(own, 90)
  await addPhoto(page, own)
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
  const d = await drag(page, 'Sigma, slider', settled)
  info.annotations.push({ type: 'drag', description: tell('Graphite over 6 megapixels', d, follows(d)) })
})

test('a chain of twelve steps over 24 megapixels follows the hand, frame by frame', async ({ enter, page }, info) => {
  test.setTimeout(360_000)
  await watch(page)
  await page.setViewportSize({ width: 1360, height: 840 })
  await enter()
  const own = info.outputPath('Large.jpg')
  await mosaicPhoto(own, 6000, 4000)
  await addPhoto(page, own)
  await page.getByRole('button', { name: 'Begin an artwork from Large.jpg' }).waitFor({ timeout: 60_000 })
  const id = await artworkOf(page, 'Large.jpg', twelveSteps)
  await page.goto(`${new URL(page.url()).origin}/bench/${id}`)
  await row(page, 'Pencil lines').waitFor()
  await page.locator('[data-part="easel"][data-settled]').waitFor({ timeout: 90_000 })
  await openRow(page, 'Pencil lines')
  await proof(page, 'Pencil lines', 'Gaussian blur').click()
  await page.waitForTimeout(1000)
  const size = await page.locator('[data-part="easel"] canvas[data-scale]').evaluate((c: HTMLCanvasElement) => ({ w: c.width, h: c.height }))
  const d = await drag(page, 'Sigma, slider', () => page.locator('[data-part="easel"][data-settled]').waitFor({ timeout: 90_000 }))
  const times = follows(d)
  info.annotations.push({ type: 'drag', description: tell(`twelve steps over 24 megapixels (canvas ${size.w} × ${size.h})`, d, times) })
  // and the brush: 450 px on a mask under all that lies above
  await page.getByRole('button', { name: 'What is painted on' }).click()
  await page.getByRole('menuitem', { name: 'Mask of Pencil lines, new' }).click()
  await brush(page, { breadth: 450, cover: 20 })
  await doing(page, 'Take away')
  const p = await paint(page, () => page.locator('[data-part="easel"][data-settled]').waitFor({ timeout: 90_000 }))
  expect(p.lags.length).toBeGreaterThan(20)
  info.annotations.push({ type: 'paint', description: tellPainted(`450 px on a mask over 24 megapixels (canvas ${size.w} × ${size.h})`, p) })
})

test('six point steps and two blurs over 6 megapixels settle soon after the hand rests', async ({ enter, page }, info) => {
  await watch(page)
  await enter()
  const own = info.outputPath('Settling.jpg')
  await ownPhoto(own, 88)
  await addPhoto(page, own)
  await page.getByRole('button', { name: 'Begin an artwork from Settling.jpg' }).waitFor({ timeout: 60_000 })
  const id = await artworkOf(page, 'Settling.jpg', eightSteps)
  await page.goto(`${new URL(page.url()).origin}/bench/${id}`)
  await settled(page)
  await page.locator('[data-part="held"][data-step="gaussian-blur"] [data-part="proof"]').first().click()
  await page.waitForTimeout(1000)
  const d = await drag(page, 'Sigma, slider', settled)
  info.annotations.push({ type: 'drag', description: tell('six point steps and two blurs over 6 megapixels', d, follows(d)) })
})

test('a placed layer follows the hand, under others that are placed and blended', async ({ enter, page }, info) => {
  await watch(page)
  await enter()
  const own = info.outputPath('Placed.jpg')
  await ownPhoto(own, 87)
  await addPhoto(page, own)
  await page.getByRole('button', { name: 'Begin an artwork from Placed.jpg' }).waitFor({ timeout: 60_000 })
  const id = await artworkOf(page, 'Placed.jpg', (photo) => {
    const a = artworkFromPhoto({ ...photo, title: 'Placed' })
    const { source } = a.layers[0]!
    const layers = [20, -35, 70, 160, 5].map((angle, i) => ({
      ...newLayer(`Placed ${i}`, source, []),
      placement: {
        matrix: [
          ...placed(
            { x: photo.width * (0.3 + i / 10), y: photo.height / 2, scaleX: 0.5, scaleY: 0.5, angle, slant: 0 },
            { x: photo.width / 2, y: photo.height / 2 },
          ),
        ] as never,
        pivot: null,
      },
      blend: (['multiply', 'screen', 'normal', 'overlay', 'multiply'] as const)[i]!,
      opacity: 0.8,
    }))
    return { ...a, layers: [a.layers[0]!, ...layers] }
  })
  await page.goto(`${new URL(page.url()).origin}/bench/${id}`)
  await settled(page)
  // the middle one: two above it, three below
  await openRow(page, 'Placed 2')
  await page.getByRole('button', { name: 'Place', exact: true }).click()
  const pivot = (await page.getByRole('button', { name: /^Pivot; drag it/ }).boundingBox())!
  await page.waitForTimeout(800)
  const d = await dragFrom(page, { x: pivot.x + 12 + 40, y: pivot.y + 12 + 22 }, settled)
  info.annotations.push({ type: 'drag', description: tell('one of five placed layers over 6 megapixels', d, follows(d)) })
  await expect(page.getByRole('button', { name: /^Undo: Move “Placed 2”/ })).toBeVisible()
})
