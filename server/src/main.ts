import { createApp, stopApp } from './app.ts'
import { readConfig } from './config.ts'

/** A stop that takes longer than this is broken off. */
const PATIENCE = 9500

const config = readConfig()
try {
  const app = await createApp(config)
  let stopping = false
  const stop = () => {
    if (stopping) return
    stopping = true
    setTimeout(() => process.exit(1), PATIENCE).unref()
    stopApp(app).then(
      () => process.exit(0),
      (error: Error) => {
        console.error(`stopping: ${error.message}`)
        process.exit(1)
      },
    )
  }
  for (const signal of ['SIGTERM', 'SIGINT', 'SIGHUP'] as const) process.on(signal, stop)
  await app.listen(config.port, config.host)
  // started by a script: when it is killed, its end of the pipe closes, and the server does not stay behind
  if (process.env.QUILL_WITH_PARENT === '1') {
    process.stdin.resume()
    process.stdin.on('end', stop)
    process.stdin.on('error', stop)
  }
  console.log(`listening on http://${config.host}:${config.port}`)
} catch (error) {
  const { code, message } = error as NodeJS.ErrnoException
  console.error(
    code === 'EADDRINUSE'
      ? `Port ${config.port} is taken by another program. Stop it, or choose another with QUILL_PORT=…`
      : `The server could not start: ${message}`,
  )
  process.exit(1)
}
