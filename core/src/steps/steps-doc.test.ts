import { readFileSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { stepsMarkdown } from './steps-doc.ts'

// Written anew with: UPDATE_DOCS=1 npx jest steps-doc && npx prettier --write docs/steps.md
test('docs/steps.md is current', () => {
  const path = join(__dirname, '../../../docs/steps.md')
  if (process.env.UPDATE_DOCS) writeFileSync(path, stepsMarkdown())
  // the formatter lays out the tables' columns, and marks some signs
  const plain = (text: string) =>
    text
      .replace(/[\s\\]+/g, ' ')
      .replace(/-{3,}/g, '---')
      .trim()
  expect(plain(readFileSync(path, 'utf8'))).toBe(plain(stepsMarkdown()))
})
