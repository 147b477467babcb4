import { rm, stat } from 'node:fs/promises'
import { Inject, Injectable, Logger, type OnApplicationBootstrap, type OnModuleDestroy } from '@nestjs/common'
import type { createRenderSchema, Render as RenderAnswer } from '@nimble-quill/contracts'
import { loadArtwork, QuillError } from '@nimble-quill/core'
import { Subject } from 'rxjs'
import type { z } from 'zod'
import { ArtworksService } from '../artworks/artworks.service.ts'
import { CONFIG, type Config } from '../config.ts'
import { Render } from '../database/models.ts'
import type { Store } from '../photos/store.ts'
import { STORE } from '../photos/tokens.ts'
import { notFound, ProblemException } from '../problems/problem.ts'
import { PictureThreads } from '../workers/picture-threads.ts'
import { TableQueue, type RenderQueue } from './render-queue.ts'

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

/** Renders as jobs: the table is the record, threads do the work, a stream of events tells of it. */
@Injectable()
export class RendersService implements OnApplicationBootstrap, OnModuleDestroy {
  private readonly log = new Logger('renders')
  private readonly config: Config
  private readonly artworks: ArtworksService
  private readonly queue: RenderQueue
  private readonly store: Store
  private readonly threads: PictureThreads
  private readonly running = new Map<string, () => void>()
  private timer: NodeJS.Timeout | null = null
  private looking = false
  private again = false
  /** What happens to renders, with the account it is for. */
  readonly news = new Subject<{ accountId: string; render: RenderAnswer }>()

  constructor(@Inject(CONFIG) config: Config, artworks: ArtworksService, queue: TableQueue, @Inject(STORE) store: Store) {
    this.config = config
    this.artworks = artworks
    this.queue = queue
    this.store = store
    this.threads = new PictureThreads(config.renderThreads, config.crew)
  }

  onApplicationBootstrap(): void {
    this.timer = setInterval(() => void this.look(), LOOK_EVERY)
    void this.look()
  }

  async onModuleDestroy(): Promise<void> {
    if (this.timer) clearInterval(this.timer)
    this.news.complete()
    await this.threads.close()
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
    if (render.state === 'waiting') await render.update({ state: 'cancelled', finishedAt: new Date() })
    else if (render.state === 'running') {
      await render.update({ cancelAsked: true })
      this.running.get(id)?.()
    }
    this.tell(render)
    return render
  }

  async remove(accountId: string, id: string): Promise<void> {
    const render = await this.find(accountId, id)
    if (render.state === 'waiting' || render.state === 'running')
      throw new ProblemException(409, 'still-running', 'Still running', 'This render is not finished. Cancel it first.')
    await rm(this.store.render(render.id, render.format), { force: true })
    await render.destroy()
  }

  /** The finished file and what it should be called. */
  async file(accountId: string, id: string): Promise<{ path: string; name: string; type: string }> {
    const render = await this.find(accountId, id)
    if (render.state !== 'done')
      throw new ProblemException(409, 'not-finished', 'Not finished', 'This render has no finished file. Wait for it, or start it again.')
    const path = this.store.render(render.id, render.format)
    if (!(await this.store.has(path))) throw notFound('file')
    const name = `${render.title.replace(/[^\p{L}\p{N} ._-]+/gu, '').trim() || 'render'}.${render.format === 'jpeg' ? 'jpg' : render.format}`
    return { path, name, type: `image/${render.format}` }
  }

  private tell(render: Render): void {
    this.news.next({ accountId: render.accountId, render: renderAnswer(render) })
  }

  /** Claims as many renders as there are free threads. */
  private async look(): Promise<void> {
    if (this.looking) {
      this.again = true
      return
    }
    this.looking = true
    try {
      do {
        this.again = false
        while (this.running.size < this.config.renderThreads) {
          const render = await this.queue.claim(this.config.leaseSeconds)
          if (!render) break
          this.running.set(render.id, () => undefined)
          void this.work(render).catch((error: Error) => this.broken(render, error))
        }
      } while (this.again)
    } catch (error) {
      this.log.warn(`looking for renders: ${(error as Error).message}`)
    } finally {
      this.looking = false
    }
  }

  private async work(render: Render): Promise<void> {
    const { id, format, quality, ppi, longSide } = render
    const out = this.store.render(id, format)
    let progress = 0
    let toldAt = 0
    const document = loadArtwork(JSON.parse(render.document))
    const { answer, cancel } = this.threads.start(
      'render',
      { document, out, pyramids: this.artworks.pyramidsOf(document), options: { format, quality, ...(ppi ? { ppi } : {}), ...(longSide ? { longSide } : {}) } },
      (share) => {
        progress = share
        render.set({ progress })
        if (Date.now() - toldAt < NEWS_EVERY) return
        toldAt = Date.now()
        this.tell(render)
      },
    )
    this.running.set(id, cancel)
    if (render.cancelAsked) cancel()
    this.tell(render)
    const lease = setInterval(
      () => {
        this.queue
          .renew(id, this.config.leaseSeconds, progress)
          .then(({ cancelled }) => cancelled && cancel())
          .catch((error: Error) => this.log.warn(`lease of ${id}: ${error.message}`))
      },
      (this.config.leaseSeconds * 1000) / 4,
    )
    try {
      const size = await answer
      const { size: bytes } = await stat(out)
      await this.settle(render, { state: 'done', progress: 1, width: size.width, height: size.height, bytes })
    } catch (error) {
      const { code, message } = error as NodeJS.ErrnoException
      await rm(out, { force: true })
      if (code === 'cancelled') await this.settle(render, { state: 'cancelled' })
      else {
        const told =
          error instanceof QuillError
            ? message
            : code === 'ENOSPC'
              ? 'The disk of the server is full. The artwork is safe; make room and render again.'
              : 'The render failed by a fault of the program. The artwork is safe; try again.'
        if (!(error instanceof QuillError)) this.log.error(`render ${id}: ${message}`)
        await this.settle(render, { state: 'failed', message: told })
      }
    } finally {
      clearInterval(lease)
      this.running.delete(id)
      void this.look()
    }
  }

  /** A render that could not even be begun: told as failed, and its place is free again. */
  private async broken(render: Render, error: Error): Promise<void> {
    this.running.delete(render.id)
    this.log.error(`render ${render.id} could not be begun: ${error.message}`)
    const told = error instanceof QuillError ? error.message : 'The render could not be begun by a fault of the program. The artwork is safe; try again.'
    await this.settle(render, { state: 'failed', message: told })
  }

  /** Writes the end of a render; while the database is away it is tried again. */
  private async settle(render: Render, end: Partial<Render>): Promise<void> {
    for (let tries = 0; tries < 30; tries++) {
      try {
        await render.update({ ...end, finishedAt: new Date(), leaseUntil: null })
        this.tell(render)
        return
      } catch (error) {
        this.log.warn(`end of ${render.id}: ${(error as Error).message}`)
        await new Promise((r) => setTimeout(r, 1000))
      }
    }
  }
}
