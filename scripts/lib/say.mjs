import { spawn } from 'node:child_process'
import { dirname, resolve } from 'node:path'
import { fileURLToPath } from 'node:url'

/** The project's folder. */
export const root = resolve(dirname(fileURLToPath(import.meta.url)), '../..')

export const say = (text) => console.log(`· ${text}`)

/** A failure with a sentence for a person; shown without a stack. */
export class Stop extends Error {}

/** Runs a command; resolves with its output, or throws with its last lines. */
export function run(command, args, { cwd = root, env = process.env, show = false } = {}) {
  return new Promise((done, fail) => {
    const child = spawn(command, args, { cwd, env, stdio: show ? ['ignore', 'inherit', 'inherit'] : ['ignore', 'pipe', 'pipe'] })
    let out = ''
    child.stdout?.on('data', (d) => (out += d))
    child.stderr?.on('data', (d) => (out += d))
    child.on('error', fail)
    child.on('close', (code) =>
      code === 0 ? done(out) : fail(new Stop(`“${command} ${args.join(' ')}” failed (${code}).\n${out.split('\n').slice(-30).join('\n')}`)),
    )
  })
}

/** Wraps a script: sentences for expected failures, exit code 1. */
export async function script(main) {
  try {
    await main()
  } catch (error) {
    console.error(error instanceof Stop ? `\n${error.message}` : error)
    process.exitCode = 1
  }
}
