// npm run demo: sets up everything that is missing, starts it, and keeps it up until Ctrl-C.
import { spawn } from 'node:child_process'
import { join } from 'node:path'
import { portTaken, startDatabase } from './lib/database.mjs'
import { root, run, say, script, Stop } from './lib/say.mjs'
import { build, ensurePackages } from './lib/setup.mjs'

await script(async () => {
  const port = Number(process.env.QUILL_PORT ?? 4170)
  const dbPort = Number(process.env.QUILL_DB_PORT ?? 4171)
  const data = process.env.QUILL_DATA ?? join(root, '.data/demo')
  const address = `http://127.0.0.1:${port}`
  // fetch refuses the same ports as browsers do
  const refused = await fetch(address, { signal: AbortSignal.timeout(2000) }).then(
    () => false,
    (e) => e.cause?.message === 'bad port',
  )
  if (refused) throw new Stop(`Browsers open nothing at port ${port}: it is kept for another service. Choose another:  QUILL_PORT=4180 npm run demo`)
  if (await portTaken(port)) {
    const ours = await fetch(`${address}/api/welcome`, { signal: AbortSignal.timeout(2000) }).then(
      (r) => r.ok,
      () => false,
    )
    throw new Stop(
      ours
        ? `Nimble Quill is already running at ${address}. Open it there, or stop it first.`
        : `Port ${port} is taken by another program. Stop it, or choose another:  QUILL_PORT=4180 npm run demo`,
    )
  }
  await ensurePackages()
  await build()
  let server = null
  let stopping = null
  let database = null
  const stop = () =>
    (stopping ??= (async () => {
      say('stopping')
      if (server && server.exitCode === null) {
        const gone = new Promise((r) => server.on('exit', r))
        server.kill('SIGTERM')
        await Promise.race([gone, new Promise((r) => setTimeout(r, 11_000))])
        if (server.exitCode === null && server.signalCode === null) server.kill('SIGKILL')
      }
      await database?.stop()
      say('stopped; everything is kept for the next start')
    })())
  for (const signal of ['SIGINT', 'SIGTERM', 'SIGHUP']) process.on(signal, () => void stop().then(() => process.exit(0)))
  try {
    say('starting the database')
    database = await startDatabase(join(data, 'database'), dbPort)
    if (stopping) return
    const env = { ...process.env, ...database.env, QUILL_PORT: String(port), QUILL_DATA: join(data, 'files'), QUILL_DEMO: '1', QUILL_WITH_PARENT: '1' }
    say('loading the demo studio: Brackwater Lantern Week')
    await run(process.execPath, [join(root, 'server/dist/demo/seed-main.js')], { env })
    if (stopping) return
    server = spawn(process.execPath, [join(root, 'server/dist/main.js')], { env, cwd: root, stdio: ['pipe', 'inherit', 'inherit'], detached: true })
    server.on('exit', (code) => {
      if (stopping) return
      console.error(`The server ended by itself (${code}).`)
      void stop().then(() => process.exit(1))
    })
    const patience = Date.now() + 60_000
    while (
      !(await fetch(`${address}/api/welcome`).then(
        (r) => r.ok,
        () => false,
      ))
    ) {
      if (Date.now() > patience || stopping) throw new Stop('The server did not come up.')
      await new Promise((r) => setTimeout(r, 100))
    }
    console.log(`\nNimble Quill is up:  ${address}\n(Ctrl-C stops it.)`)
    await new Promise(() => undefined)
  } catch (error) {
    await stop()
    throw error
  }
})
