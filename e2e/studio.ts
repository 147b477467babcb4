import { spawn, type ChildProcess } from 'node:child_process'
import { cpSync, existsSync, mkdtempSync, rmSync, writeFileSync } from 'node:fs'
import { createServer } from 'node:net'
import { tmpdir } from 'node:os'
import { join, resolve } from 'node:path'
import { test as base, type Page } from '@playwright/test'
import { QueryTypes, Sequelize } from 'sequelize'

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

const admin = (database: string) =>
  new Sequelize(database, 'quill', process.env.QUILL_DB_PASSWORD!, {
    dialect: 'mariadb',
    host: '127.0.0.1',
    port: Number(process.env.QUILL_DB_PORT),
    logging: false,
    // whole copies by one connection: what is said of a session holds for all of it
    pool: { max: 1, min: 1 },
  })

/** Puts the tables of one database, with all that is in them, into another that is empty. */
async function copyTables(on: Sequelize, from: string, to: string): Promise<void> {
  const ask = async (sql: string) => (await on.query(sql, { type: QueryTypes.SELECT })) as Record<string, string>[]
  const tables = (await ask(`SHOW FULL TABLES FROM ${from} WHERE Table_type = 'BASE TABLE'`)).map((row) => Object.values(row)[0]!)
  await on.query(`USE ${to}`)
  await on.query('SET FOREIGN_KEY_CHECKS = 0')
  for (const table of tables) {
    await on.query((await ask(`SHOW CREATE TABLE ${from}.${table}`))[0]!['Create Table']!)
    await on.query(`INSERT INTO ${to}.${table} SELECT * FROM ${from}.${table}`)
  }
}

export const test = base.extend<{ enter: () => Promise<Page> }, { studio: Studio }>({
  /** A studio of the worker's own, with a copy of what the demo studio begins with. */
  studio: [
    // eslint-disable-next-line no-empty-pattern
    async ({}, use) => {
      const name = `nimble_quill_e2e_${process.pid}`
      const { QUILL_E2E_DATABASE: first, QUILL_E2E_DATA: begun } = process.env
      const database = admin('nimble_quill')
      await database.query(`CREATE DATABASE ${name}`)
      await copyTables(database, first!, name)
      const data = mkdtempSync(join(tmpdir(), 'quill-e2e-'))
      cpSync(begun!, data, { recursive: true })
      const port = await freePort()
      const studio = new Studio(port, data, {
        ...process.env,
        QUILL_DB_NAME: name,
        QUILL_DATA: data,
        QUILL_PORT: String(port),
        QUILL_DEMO: '1',
        QUILL_SIGN_IN_LIMIT: '1000',
        QUILL_LEASE_SECONDS: '3',
      })
      try {
        await studio.start()
        await use(studio)
      } finally {
        await studio.kill('SIGTERM')
        await database.query(`DROP DATABASE ${name}`)
        await database.close()
        rmSync(data, { recursive: true, force: true })
      }
    },
    { scope: 'worker', timeout: 120_000 },
  ],
  /** Enters the demo studio and stands at the desk. What the test leaves there is cleared away: the next one's desk would have it all pictured. */
  enter: async ({ page, context, studio }, use) => {
    const ids = async () => ((await (await context.request.get(`${studio.url}/api/artworks`)).json()) as { id: string }[]).map((a) => a.id)
    let before = new Set<string>()
    let entered = false
    await use(async () => {
      await page.goto(studio.url)
      await page.getByRole('button', { name: 'Enter the demo studio' }).click()
      await page.getByRole('heading', { name: 'Photographs' }).waitFor()
      if (!entered) before = new Set(await ids())
      entered = true
      return page
    })
    if (!entered) return
    for (const open of context.pages()) await open.close()
    for (const id of await ids()) if (!before.has(id)) await context.request.delete(`${studio.url}/api/artworks/${id}`)
  },
})
export { expect } from '@playwright/test'

/** Before all tests: the demo studio is filled once (and once for all runs with one folder to work in), and told to the workers by the environment. */
export default async function fill(): Promise<void> {
  const { QUILL_DB_PORT, QUILL_DB_PASSWORD, QUILL_E2E_WORK: work } = process.env
  if (!QUILL_DB_PORT || !QUILL_DB_PASSWORD || !work) throw new Error('No test database, or no folder to work in. Run the browser tests with “npm test -- e2e”.')
  const name = 'nimble_quill_e2e'
  const data = join(work, 'begun')
  const filled = join(work, 'filled')
  process.env.QUILL_E2E_DATABASE = name
  process.env.QUILL_E2E_DATA = data
  if (existsSync(filled)) return
  const database = admin('nimble_quill')
  // one that is there from before is replaced whole, whatever its rows hold on to
  await database.query('SET FOREIGN_KEY_CHECKS = 0')
  await database.query(`CREATE OR REPLACE DATABASE ${name}`)
  await database.close()
  rmSync(data, { recursive: true, force: true })
  const env = { ...process.env, QUILL_DB_NAME: name, QUILL_DATA: data, QUILL_DEMO: '1' }
  await new Promise<void>((done, fail) => {
    const child = spawn(process.execPath, [join(root, 'server/dist/demo/seed-main.js')], { env, cwd: root, stdio: ['ignore', 'ignore', 'inherit'] })
    child.on('close', (code) => (code === 0 ? done() : fail(new Error(`filling the demo studio ended with ${code}`))))
  })
  writeFileSync(filled, '')
}
