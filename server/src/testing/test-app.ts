import { mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import type { NestExpressApplication } from '@nestjs/platform-express'
import sharp from 'sharp'
import { Sequelize } from 'sequelize'
import request from 'supertest'
import { createApp, stopApp } from '../app.ts'
import type { Config } from '../config.ts'

export interface TestApp {
  app: NestExpressApplication
  config: Config
  /** An agent with a session of a fresh account. */
  account: (name: string) => Promise<ReturnType<typeof request.agent>>
  anonymous: () => ReturnType<typeof request>
  close: () => Promise<void>
}

/** The whole server on a database of its own (the test command starts MariaDB and says where) and a passing data folder. */
export async function testApp(name: string, more: Partial<Config> = {}): Promise<TestApp> {
  const { QUILL_DB_PORT, QUILL_DB_PASSWORD } = process.env
  if (!QUILL_DB_PORT) throw new Error('No test database. Run the tests with “npm test”, or “npm test -- server”.')
  const database = { host: '127.0.0.1', port: Number(QUILL_DB_PORT), name: `nimble_quill_${name}`, user: 'quill', password: QUILL_DB_PASSWORD ?? '' }
  const admin = new Sequelize('nimble_quill', database.user, database.password, {
    dialect: 'mariadb',
    host: database.host,
    port: database.port,
    logging: false,
  })
  await admin.query(`DROP DATABASE IF EXISTS ${database.name}`)
  await admin.query(`CREATE DATABASE ${database.name}`)
  await admin.close()
  const dataDir = mkdtempSync(join(tmpdir(), 'quill-test-'))
  const config: Config = {
    port: 0,
    host: '127.0.0.1',
    dataDir,
    database,
    demo: false,
    hosts: [],
    tls: false,
    decodeThreads: 1,
    decodeSeconds: 60,
    // other tests may have the machine at the same time
    thumbnailSeconds: 60,
    idleSeconds: 60,
    webDir: dataDir,
    signInLimit: 1000,
    renderThreads: 1,
    crew: 2,
    leaseSeconds: 2,
    ...more,
  }
  const app = await createApp(config, true)
  await app.listen(0, '127.0.0.1')
  const server = app.getHttpServer() as Parameters<typeof request>[0]
  return {
    app,
    config,
    anonymous: () => request(server),
    account: async (who) => {
      const agent = request.agent(server)
      await agent
        .post('/api/accounts')
        .send({ name: who, email: `${who}@example.org`, password: 'a long enough password' })
        .expect(201)
      return agent
    },
    close: async () => {
      await stopApp(app)
      rmSync(dataDir, { recursive: true, force: true })
    },
  }
}

/** A small colourful picture file. */
export async function picture(format: 'jpeg' | 'png' = 'png', width = 60, height = 40): Promise<Buffer> {
  const pixels = Buffer.from(Uint8Array.from({ length: width * height * 3 }, (_, i) => (i * 31 + Math.floor(i / 90) * 7) % 256))
  const image = sharp(pixels, { raw: { width, height, channels: 3 } })
  return format === 'png' ? image.png().toBuffer() : image.jpeg({ quality: 95 }).toBuffer()
}
