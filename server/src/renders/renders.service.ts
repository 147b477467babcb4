import { readdir, rm, stat } from 'node:fs/promises'
import { join } from 'node:path'
import { Inject, Injectable, Logger, type OnApplicationBootstrap, type OnModuleDestroy } from '@nestjs/common'
import type { createRenderSchema, Render as RenderAnswer } from '@nimble-quill/contracts'
import { loadArtwork, QuillError } from '@nimble-quill/core'
import { Subject } from 'rxjs'
import type { z } from 'zod'
import { ArtworksService } from '../artworks/artworks.service.ts'
import { CONFIG, type Config } from '../config.ts'
import { Render } from '../database/models.ts'
import { endingOf, type Store } from '../photos/store.ts'
import { STORE } from '../photos/tokens.ts'
import { notFound, ProblemException } from '../problems/problem.ts'
import { Pool } from '../workers/pool.ts'
import { ATTEMPTS, TableQueue, type Claimed, type RenderQueue } from './render-queue.ts'

/** How often waiting renders are looked for when nothing calls; other processes may have added some. */
const LOOK_EVERY = 2000
const NEWS_EVERY = 150

export function renderAnswer(r: Render): RenderAnswer {
  return {
    id: r.id,
    artwork: r.artworkId,
    title: r.title,
    format: r.format,
    state: r.state,
    progress: r.progress,
    width: r.width,
    height: r.height,
    bytes: r.bytes === null ? null : Number(r.bytes),
    message: r.message,
    createdAt: r.createdAt.toISOString(),
    finishedAt: r.finishedAt?.toISOString() ?? null,
  }
}

/** What is worked on here. */
interface Working {
  token: string
  cancel: () => void
  /** Ended when all about it is written. */
  ended: Promise<void>
}

const BROKEN_OFF = `The render was broken off ${ATTEMPTS} times by a failure of the picture engine and is given up. The artwork is safe; render it smaller, or with fewer steps.`

/** Renders as jobs: the table is the record, threads do the work, a stream of events tells of it. */
@Injectable()
export class RendersService implements OnApplicationBootstrap, OnModuleDestroy {
  private readonly log = new Logger('renders')
  private readonly config: Config
  private readonly artworks: ArtworksService
  private readonly queue: RenderQueue
  private readonly store: Store
  private readonly threads: Pool
  private readonly running = new Map<string, Working>()
  private timer: NodeJS.Timeout | null = null
  private looking: Promise<void> | null = null
  private again = false
  private stopping = false
  /** What happens to renders, with the account it is for. */
  readonly news = new Subject<{ accountId: string; render: RenderAnswer }>()

  constructor(@Inject(CONFIG) config: Config, artworks: ArtworksService, queue: TableQueue, @Inject(STORE) store: Store) {
    this.config = config
    this.artworks = artworks
    this.queue = queue
    this.store = store
    this.threads = new Pool({ size: Math.max(1, config.renderThreads), crew: config.crew })
  }

  async onApplicationBootstrap(): Promise<void> {
    // what a process that is gone was working on need not wait for its lease to end
    await this.queue.releaseAllOf(this.store.gone).catch((error: Error) => this.log.warn(`giving renders back: ${error.message}`))
    await this.sweep().catch((error: Error) => this.log.warn(`clearing old files: ${error.message}`))
    this.timer = setInterval(() => void this.look(), LOOK_EVERY)
    void this.look()
  }

  /** Stops what is worked on and gives it back to the queue, to be begun again at once by whoever looks next. */
  async onModuleDestroy(): Promise<void> {
    this.stopping = true
    if (this.timer) clearInterval(this.timer)
    this.news.complete()
    await this.looking
    const ends = [...this.running.values()].map((w) => {
      w.cancel()
      return w.ended
    })
    let patience: NodeJS.Timeout | undefined
    await Promise.race([Promise.allSettled(ends), new Promise((r) => (patience = setTimeout(r, 4000)))])
    // who has gone already is not waited for
    clearTimeout(patience)
    await this.threads.close()
  }

  /** Removes files that no render names: parts, and what was made by those who had lost their claim. */
  private async sweep(): Promise<void> {
    const rows = await Render.findAll({ attributes: ['id', 'claim'] })
    const claims = new Map(rows.map((r) => [r.id, r.claim]))
    for (const name of await readdir(this.store.renders)) {
      const [id, ...rest] = name.split('.')
      const claim = claims.get(id!)
      // files of before claims had tokens have none in their name
      const named = claim !== undefined && (rest.length === 1 ? claim === null : rest.length === 2 && rest[0] === claim)
      if (!named) await rm(join(this.store.renders, name), { force: true })
    }
  }

  list(accountId: string): Promise<Render[]> {
    return Render.findAll({ where: { accountId }, order: [['createdAt', 'DESC']], limit: 200, attributes: { exclude: ['document'] } })
  }

  async find(accountId: string, id: string): Promise<Render> {
    const render = await Render.findOne({ where: { id, accountId } })
    if (!render) throw notFound('render')
    return render
  }

  /** Puts a render of the saved artwork into the queue. */
  async add(accountId: string, ask: z.output<typeof createRenderSchema>): Promise<Render> {
    const artwork = await this.artworks.find(accountId, ask.artwork)
    const render = await Render.create({
      accountId,
      artworkId: artwork.id,
      title: artwork.title,
      document: artwork.document,
      format: ask.format,
      quality: ask.quality,
      ppi: ask.ppi ?? null,
      longSide: ask.longSide ?? null,
    })
    this.tell(render)
    void this.look()
    return render
  }

  async cancel(accountId: string, id: string): Promise<Render> {
    const render = await this.find(accountId, id)
    const [stopped] = await Render.update({ state: 'cancelled', finishedAt: new Date() }, { where: { id, state: 'waiting' } })
    if (stopped === 0) {
      await Render.update({ cancelAsked: true }, { where: { id, state: 'running' } })
      this.running.get(id)?.cancel()
    }
    await render.reload()
    this.tell(render)
    return render
  }

  async remove(accountId: string, id: string): Promise<void> {
    const render = await this.find(accountId, id)
    if (render.state === 'waiting' || render.state === 'running')
      throw new ProblemException(409, 'still-running', 'Still running', 'This render is not finished. Cancel it first.')
    await rm(this.fileOf(render), { force: true })
    await render.destroy()
  }

  /** The finished file and what it should be called. */
  async file(accountId: string, id: string): Promise<{ path: string; name: string; type: string }> {
    const render = await this.find(accountId, id)
    if (render.state !== 'done')
      throw new ProblemException(409, 'not-finished', 'Not finished', 'This render has no finished file. Wait for it, or start it again.')
    const path = this.fileOf(render)
    if (!(await this.store.has(path))) throw notFound('file')
    const name = `${render.title.replace(/[^\p{L}\p{N} ._-]+/gu, '').trim() || 'render'}.${endingOf(render.format)}`
    return { path, name, type: render.format.startsWith('svg') ? 'image/svg+xml' : `image/${render.format}` }
  }

  private fileOf({ id, claim, format }: Render): string {
    return this.store.render(id, claim, format)
  }

  private tell(render: Render): void {
    this.news.next({ accountId: render.accountId, render: renderAnswer(render) })
  }

  /** Claims as many renders as there are free threads; one look at a time. */
  private async look(): Promise<void> {
    this.again = true
    this.looking ??= this.looks().finally(() => (this.looking = null))
    await this.looking
  }

  private async looks(): Promise<void> {
    try {
      while (this.again && !this.stopping) {
        this.again = false
        for (const { render, token } of await this.queue.givenUp()) await this.settle(render, token, { state: 'failed', message: BROKEN_OFF })
        while (this.running.size < this.config.renderThreads && !this.stopping) {
          const claimed = await this.queue.claim(this.config.leaseSeconds, this.store.mark)
          if (!claimed) break
          this.begin(claimed)
        }
      }
    } catch (error) {
      this.log.warn(`looking for renders: ${(error as Error).message}`)
    }
  }

  private begin({ render, token }: Claimed): void {
    const working: Working = { token, cancel: () => undefined, ended: Promise.resolve() }
    this.running.set(render.id, working)
    working.ended = this.work(render, working)
      .catch((error: Error) => this.broken(render, token, error))
      // what could not be written, because the database stays away, is begun again when its lease has ended
      .catch((error: Error) => this.log.error(`end of ${render.id}: ${error.message}`))
      .finally(() => {
        this.running.delete(render.id)
        if (!this.stopping) void this.look()
      })
  }

  private async work(render: Render, working: Working): Promise<void> {
    const { id, format, quality, ppi, longSide } = render
    const { token } = working
    const part = this.store.scratch(`${id}.${token}`)
    let progress = 0
    let toldAt = 0
    let lost = false
    const document = loadArtwork(JSON.parse(render.document))
    const { answer, cancel } = this.threads.start(
      'render',
      {
        document,
        out: part,
        pyramids: this.artworks.pyramidsOf(document),
        planes: this.store.planes(render.accountId),
        options: { format, quality, ...(ppi ? { ppi } : {}), ...(longSide ? { longSide } : {}) },
      },
      (share) => {
        progress = share
        render.set({ progress })
        if (Date.now() - toldAt < NEWS_EVERY) return
        toldAt = Date.now()
        this.tell(render)
      },
    )
    working.cancel = cancel
    if (render.cancelAsked || this.stopping) cancel()
    this.tell(render)
    const lease = setInterval(
      () => {
        this.queue
          .renew(id, token, this.config.leaseSeconds, progress)
          .then(({ held, cancelled }) => {
            lost ||= !held
            if (cancelled || lost) cancel()
          })
          .catch((error: Error) => this.log.warn(`lease of ${id}: ${error.message}`))
      },
      (this.config.leaseSeconds * 1000) / 4,
    )
    const path = this.store.render(id, token, format)
    try {
      const { width, height } = await answer
      const { size: bytes } = await stat(part)
      await this.store.keep(part, path)
      if (!(await this.settle(render, token, { state: 'done', progress: 1, width, height, bytes }))) await rm(path, { force: true })
    } catch (error) {
      const { code, message } = error as NodeJS.ErrnoException
      await rm(path, { force: true })
      // another has it now: nothing is written
      if (lost) return
      const engine = code === 'kernel-failed' || code === 'out-of-memory'
      const asked = code === 'cancelled' && (await this.queue.renew(id, token, this.config.leaseSeconds, 0)).cancelled
      if (asked) await this.settle(render, token, { state: 'cancelled' })
      // stopped with the server: it waits again, and that was no attempt
      else if (code === 'cancelled') await this.queue.release(id, token, false)
      else if (engine && render.attempts < ATTEMPTS) await this.queue.release(id, token, true)
      else await this.broken(render, token, error as Error, code === 'kernel-failed' ? BROKEN_OFF : code === 'ENOSPC' ? DISK_FULL : undefined)
      if (engine) this.log.warn(`render ${id}, attempt ${render.attempts}: ${message} ${JSON.stringify((error as Partial<QuillError>).details ?? {})}`)
    } finally {
      clearInterval(lease)
      for (const file of [part, `${part}.part`, `${part}.part.tif`]) await rm(file, { force: true })
    }
  }

  /** A render that cannot be made is told as failed. */
  private async broken(render: Render, token: string, error: Error, told?: string): Promise<void> {
    if (!(error instanceof QuillError) && !told) this.log.error(`render ${render.id}: ${error.message}`)
    const message = told ?? (error instanceof QuillError ? error.message : 'The render failed by a fault of the program. The artwork is safe; try again.')
    await this.settle(render, token, { state: 'failed', message })
  }

  /** Writes the end of a render, and answers whether its claim still held; while the database is away it is tried again. */
  private async settle(render: Render, token: string, end: Partial<Render>): Promise<boolean> {
    for (let tries = 0; ; tries++) {
      try {
        const held = await this.queue.end(render.id, token, end)
        if (held) this.tell(await render.reload())
        return held
      } catch (error) {
        if (tries === 30 || this.stopping) throw error
        this.log.warn(`end of ${render.id}: ${(error as Error).message}`)
        await new Promise((r) => setTimeout(r, 1000))
      }
    }
  }
}

const DISK_FULL = 'The disk of the server is full. The artwork is safe; make room and render again.'
