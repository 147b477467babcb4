import { spawn, type ChildProcess } from 'node:child_process'
import { mkdtempSync, rmSync } from 'node:fs'
import { createServer } from 'node:net'
import { tmpdir } from 'node:os'
import { join, resolve } from 'node:path'
import { test as base, type Page } from '@playwright/test'
import { Sequelize } from 'sequelize'

export const root = resolve(import.meta.dirname, '..')

/** The whole application, started as the demo starts it, on a database, port and data folder of its own. */
export class Studio {
  readonly port: number
  readonly data: string
  private readonly env: NodeJS.ProcessEnv
  private server: ChildProcess | null = null

  constructor(port: number, data: string, env: NodeJS.ProcessEnv) {
    this.port = port
    this.data = data
    this.env = env
  }

  get url(): string {
    return `http://127.0.0.1:${this.port}`
  }

  async start(): Promise<void> {
    this.server = spawn(process.execPath, [join(root, 'server/dist/main.js')], { env: this.env, cwd: root, stdio: ['ignore', 'ignore', 'inherit'] })
    for (const patience = Date.now() + 60_000; Date.now() < patience;) {
      if (
        await fetch(`${this.url}/api/welcome`).then(
          (r) => r.ok,
          () => false,
        )
      )
        return
      await new Promise((r) => setTimeout(r, 100))
    }
    throw new Error('the server does not come up')
  }

  /** Ends the server as a power cut would. */
  async kill(signal: NodeJS.Signals = 'SIGKILL'): Promise<void> {
    const { server } = this
    if (!server || server.exitCode !== null || server.signalCode !== null) return
    const gone = new Promise((r) => server.on('exit', r))
    server.kill(signal)
    await gone
  }
}

const freePort = () =>
  new Promise<number>((done) => {
    const server = createServer().listen(0, '127.0.0.1', () => {
      const { port } = server.address() as { port: number }
      server.close(() => done(port))
    })
  })

const run = (args: string[], env: NodeJS.ProcessEnv) =>
  new Promise<void>((done, fail) => {
    const child = spawn(process.execPath, args, { env, cwd: root, stdio: ['ignore', 'ignore', 'inherit'] })
    child.on('close', (code) => (code === 0 ? done() : fail(new Error(`${args[0]} ended with ${code}`))))
  })

export const test = base.extend<{ enter: () => Promise<Page> }, { studio: Studio }>({
  studio: [
    // eslint-disable-next-line no-empty-pattern
    async ({}, use) => {
      const { QUILL_DB_PORT, QUILL_DB_PASSWORD } = process.env
      if (!QUILL_DB_PORT) throw new Error('No test database. Run the browser tests with “npm test -- e2e”.')
      const name = `nimble_quill_e2e_${process.pid}`
      const admin = new Sequelize('nimble_quill', 'quill', QUILL_DB_PASSWORD, {
        dialect: 'mariadb',
        host: '127.0.0.1',
        port: Number(QUILL_DB_PORT),
        logging: false,
      })
      await admin.query(`CREATE DATABASE ${name}`)
      const data = mkdtempSync(join(tmpdir(), 'quill-e2e-'))
      const port = await freePort()
      const env = {
        ...process.env,
        QUILL_DB_NAME: name,
        QUILL_DATA: data,
        QUILL_PORT: String(port),
        QUILL_DEMO: '1',
        QUILL_SIGN_IN_LIMIT: '1000',
        QUILL_LEASE_SECONDS: '3',
      }
      const studio = new Studio(port, data, env)
      try {
        await run([join(root, 'server/dist/demo/seed-main.js')], env)
        await studio.start()
        await use(studio)
      } finally {
        await studio.kill('SIGTERM')
        await admin.query(`DROP DATABASE ${name}`)
        await admin.close()
        rmSync(data, { recursive: true, force: true })
      }
    },
    { scope: 'worker', timeout: 120_000 },
  ],
  /** Enters the demo studio and stands at the desk. */
  enter: async ({ page, studio }, use) => {
    await use(async () => {
      await page.goto(studio.url)
      await page.getByRole('button', { name: 'Enter the demo studio' }).click()
      await page.getByRole('heading', { name: 'Photographs' }).waitFor()
      return page
    })
  },
})
export { expect } from '@playwright/test'
