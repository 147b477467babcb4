// npm run build: everything the application is made of.
import { script } from './lib/say.mjs'
import { build, ensurePackages } from './lib/setup.mjs'

await script(async () => {
  await ensurePackages()
  await build()
})
