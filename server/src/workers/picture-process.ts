import sharp from 'sharp'
import type { Coding } from './coding.ts'

// Decodes or encodes one large picture, in a process of its own: what the library has begun cannot be stopped, but a process can be ended, and takes its
// memory along. Called with the job as JSON; answers with a line of JSON. Ends with whoever started it.

process.stdin.resume()
process.stdin.on('end', () => process.kill(process.pid, 'SIGKILL'))

const { codePicture } = await import('./coding.ts')
// one picture at a time: nothing is worth keeping
sharp.cache(false)
try {
  process.stdout.write(JSON.stringify({ done: await codePicture(JSON.parse(process.argv[2]!) as Coding) }))
} catch (error) {
  const { code, message } = error as NodeJS.ErrnoException
  process.stdout.write(JSON.stringify({ failed: { code, message } }))
}
process.stdin.destroy()
