import { join } from 'node:path'
import { createApp } from '../app.ts'
import { readConfig } from '../config.ts'
import { seed } from './seed.ts'

const app = await createApp({ ...readConfig(), renderThreads: 0 }, true)
await app.init()
await seed(app, join(import.meta.dirname, '../../../demo'))
await app.close()
