import { readFileSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { jsonSchemas } from './json-schema.ts'

// Written anew with: UPDATE_SCHEMAS=1 npx jest json-schema
test.each(Object.entries(jsonSchemas()))('docs/%s.schema.json is current', (name, schema) => {
  const path = join(__dirname, `../../../docs/${name}.schema.json`)
  const text = `${JSON.stringify(schema, null, 2)}\n`
  if (process.env.UPDATE_SCHEMAS) writeFileSync(path, text)
  expect(readFileSync(path, 'utf8')).toBe(text)
})
