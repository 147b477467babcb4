import { createApp } from './app.ts'
import { readConfig } from './config.ts'

const config = readConfig()
try {
  const app = await createApp(config)
  await app.listen(config.port, config.host)
  // started by a script: when it is killed, its end of the pipe closes, and the server does not stay behind
  if (process.env.QUILL_WITH_PARENT === '1') {
    process.stdin.resume()
    process.stdin.on('end', () => void app.close().then(() => process.exit(0)))
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
