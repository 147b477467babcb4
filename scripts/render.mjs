// npm run render -- PHOTO …: the command line, built when needed.
import { root, script } from './lib/say.mjs'
import { build, ensurePackages } from './lib/setup.mjs'

await script(async () => {
  await ensurePackages()
  await build()
  process.chdir(process.env.INIT_CWD ?? process.cwd())
  const { main } = await import(`${root}/cli/dist/main.js`)
  process.exitCode = await main(process.argv.slice(2))
})
