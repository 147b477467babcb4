import AxeBuilder from '@axe-core/playwright'
import type { Page } from '@playwright/test'
import { settled } from './bench-page.ts'
import { begin } from './by-hand.ts'
import { expect, test } from './studio.ts'

// Every page against axe's rules (Deque; WCAG 2.2 A and AA): nothing serious, nothing critical.

// the page's Content-Security-Policy would not let it in
test.use({ bypassCSP: true })

async function found(page: Page): Promise<string[]> {
  const { violations } = await new AxeBuilder({ page }).analyze()
  return violations
    .filter((v) => v.impact === 'serious' || v.impact === 'critical')
    .map(
      (v) =>
        `${v.id}: ${v.nodes
          .map((n) => n.target.join(' '))
          .slice(0, 4)
          .join(' | ')}`,
    )
}

test('sign-in, desk, renders, picker, bench, painting and the render dialog have no serious findings', async ({ page, studio, enter }) => {
  test.setTimeout(180_000)
  await page.goto(studio.url)
  await page.getByRole('button', { name: 'Enter the demo studio' }).waitFor()
  const all: Record<string, string[]> = { 'sign-in': await found(page) }
  await enter()
  all['desk'] = await found(page)
  await begin(page, 'Tin boats')
  all['picker'] = await found(page)
  await page.getByRole('button', { name: 'Close', exact: true }).click()
  await settled(page)
  all['bench'] = await found(page)
  await page.getByRole('button', { name: 'Layer', exact: true }).click()
  await page.getByRole('menuitem', { name: 'Paint, by brush' }).click()
  await page.getByRole('heading', { name: 'Paint', exact: true }).waitFor()
  // the menu fades out, its items first
  await expect(page.getByRole('menu')).toHaveCount(0)
  all['painting'] = await found(page)
  await page.keyboard.press('Escape')
  await page.getByRole('button', { name: 'Render', exact: true }).click()
  await page.getByRole('dialog', { name: 'Render at full size' }).waitFor()
  all['render dialog'] = await found(page)
  await page.keyboard.press('Escape')
  await page.getByRole('link', { name: 'Renders' }).click()
  await page.getByRole('heading', { name: 'Renders' }).waitFor()
  all['renders'] = await found(page)
  expect(all).toEqual({ 'sign-in': [], desk: [], picker: [], bench: [], painting: [], 'render dialog': [], renders: [] })
})
