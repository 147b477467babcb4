import { Inject, Injectable, type OnModuleDestroy } from '@nestjs/common'
import type { ArtworkAnswer, ArtworkHead, Saved, saveArtworkSchema } from '@nimble-quill/contracts'
import { artworkFromPhoto, assetsOf, loadArtwork, ppiFor, QuillError, type Artwork as Document } from '@nimble-quill/core'
import { randomUUID } from 'node:crypto'
import { rm } from 'node:fs/promises'
import { Op } from 'sequelize'
import type { z } from 'zod'
import { Database } from '../database/database.module.ts'
import { Artwork, Save, type Photo } from '../database/models.ts'
import { PhotosService } from '../photos/photos.service.ts'
import { lookSpotOf, SPOT_SIDE } from '../photos/look-spot.ts'
import type { Store } from '../photos/store.ts'
import { STORE, THUMBNAILS } from '../photos/tokens.ts'
import { PlanesService } from '../planes/planes.service.ts'
import { notFound, ProblemException } from '../problems/problem.ts'
import type { Pool, Started } from '../workers/pool.ts'
import { SharedWork } from '../workers/shared-work.ts'

export function head(a: Artwork): ArtworkHead {
  return {
    id: a.id,
    title: a.title,
    revision: a.revision,
    width: a.width,
    height: a.height,
    createdAt: a.createdAt.toISOString(),
    updatedAt: a.updatedAt.toISOString(),
  }
}
/** Saves that are remembered of an artwork: so many revisions back, one that is sent again is known. */
const REMEMBERED = 200
const THUMBNAIL_SIDE = 480

/** Artworks; every query is bound to their owner. */
@Injectable()
export class ArtworksService implements OnModuleDestroy {
  private readonly database: Database
  private readonly photos: PhotosService
  private readonly planes: PlanesService
  private readonly store: Store
  private readonly threads: Pool
  /** Thumbnails that are being made, by path. */
  private readonly making = new SharedWork<void>()

  constructor(database: Database, photos: PhotosService, planes: PlanesService, @Inject(STORE) store: Store, @Inject(THUMBNAILS) threads: Pool) {
    this.planes = planes
    this.database = database
    this.photos = photos
    this.store = store
    this.threads = threads
  }

  onModuleDestroy(): Promise<void> {
    return this.threads.close()
  }

  /** An artwork with its document, and the last saves that made it. */
  async whole(a: Artwork): Promise<ArtworkAnswer> {
    const saves = await Save.findAll({ where: { artworkId: a.id, revision: { [Op.lte]: a.revision } }, order: [['revision', 'DESC']], limit: 64 })
    // the first revision is made by no save
    return { ...head(a), saves: saves.map((s) => s.id), document: JSON.parse(a.document) as unknown }
  }

  list(accountId: string): Promise<Artwork[]> {
    return Artwork.findAll({ where: { accountId, deletedAt: null }, order: [['updatedAt', 'DESC']], attributes: { exclude: ['document'] } })
  }

  async find(accountId: string, id: string, deletedToo = false): Promise<Artwork> {
    const artwork = await Artwork.findOne({ where: { id, accountId, ...(deletedToo ? {} : { deletedAt: null }) } })
    if (!artwork) throw notFound('artwork')
    return artwork
  }

  /** Reads a document, and makes sure that its photos are the account's own, and that all that was painted is there. */
  async checked(accountId: string, json: unknown): Promise<Document> {
    const document = loadArtwork(json)
    for (const asset of assetsOf(document)) {
      if (!(await this.photos.owns(accountId, asset)))
        throw new QuillError('missing-photo', 'A photo of this artwork is not among yours. Nothing was saved; add the photo to the desk first.')
    }
    await this.planes.check(accountId, document)
    return document
  }

  /** @param print millimetres that its long side is to have on paper */
  async fromPhoto(accountId: string, photoId: string, print?: number): Promise<Artwork> {
    const photo = await this.photos.find(accountId, photoId)
    return this.insert(accountId, await this.begun(photo, photo.name.replace(/\.[a-z0-9]{2,5}$/i, ''), print))
  }

  /** The document of a new artwork from a photo, its look spot where the photo is richest. */
  async begun(photo: Photo, title: string, print?: number): Promise<Document> {
    const { asset, width, height } = photo
    const lookSpot = await lookSpotOf(this.store.small(asset, SPOT_SIDE), photo)
    return {
      ...artworkFromPhoto({ asset, width, height, title, ...(print ? { ppi: ppiFor(Math.max(width, height), print) } : {}) }),
      lookSpot,
    }
  }

  async fromDocument(accountId: string, json: unknown): Promise<Artwork> {
    return this.insert(accountId, await this.checked(accountId, json))
  }

  private insert(accountId: string, document: Document): Promise<Artwork> {
    return Artwork.create({ accountId, title: document.title, document: JSON.stringify(document), width: document.sheet.w, height: document.sheet.h })
  }

  /**
   * Saves a change that is based on a revision; refused when another came first. A save that is sent again is answered with the revision it made;
   * one that follows saves whose answers were lost is taken where one of them made the present revision.
   */
  async save(accountId: string, id: string, ask: z.output<typeof saveArtworkSchema>): Promise<Saved> {
    const { revision, after } = ask
    const save = ask.save ?? randomUUID()
    const document = await this.checked(accountId, ask.document)
    return this.database.sequelize.transaction(async (transaction) => {
      const row = await Artwork.findOne({
        where: { id, accountId, deletedAt: null },
        attributes: ['id', 'revision', 'updatedAt'],
        lock: transaction.LOCK.UPDATE,
        transaction,
      })
      if (!row) throw notFound('artwork')
      const earlier = await Save.findOne({ where: { id: save }, transaction })
      if (earlier?.artworkId === id) return { revision: earlier.revision, updatedAt: earlier.savedAt.toISOString() }
      if (earlier) throw new ProblemException(400, 'request-invalid', 'Not as expected', 'A save of this id was made of another artwork. Nothing was changed.')
      const follows = row.revision === revision || (await Save.count({ where: { artworkId: id, revision: row.revision, id: after }, transaction })) > 0
      if (!follows) {
        throw new ProblemException(
          409,
          'saved-elsewhere',
          'Changed elsewhere',
          'This artwork was changed elsewhere meanwhile. Nothing is lost: keep your version as a copy, or take the newer one.',
          { revision: row.revision, updatedAt: row.updatedAt.toISOString() },
        )
      }
      const made = { revision: row.revision + 1, updatedAt: new Date() }
      const { title, sheet } = document
      await row.update({ title, document: JSON.stringify(document), width: sheet.w, height: sheet.h, ...made }, { transaction })
      await Save.create({ id: save, artworkId: id, revision: made.revision, savedAt: made.updatedAt }, { transaction })
      if (made.revision % 50 === 0) await Save.destroy({ where: { artworkId: id, revision: { [Op.lt]: made.revision - REMEMBERED } }, transaction })
      return { revision: made.revision, updatedAt: made.updatedAt.toISOString() }
    })
  }

  async duplicate(accountId: string, id: string): Promise<Artwork> {
    const artwork = await this.find(accountId, id)
    const document = loadArtwork(JSON.parse(artwork.document))
    return this.insert(accountId, { ...document, title: `${document.title} copy`.slice(0, 200) })
  }

  async remove(accountId: string, id: string): Promise<void> {
    await (await this.find(accountId, id)).update({ deletedAt: new Date() })
  }

  async restore(accountId: string, id: string): Promise<Artwork> {
    return (await this.find(accountId, id, true)).update({ deletedAt: null })
  }

  /**
   * Path of a small picture of the saved artwork; made when it is not there, once for all who ask.
   * @param left set when who asks does not wait any longer
   */
  async thumbnail(accountId: string, id: string, left?: AbortSignal): Promise<string> {
    const artwork = await this.find(accountId, id)
    const path = this.store.thumbnail(artwork.id, artwork.revision)
    if (!(await this.store.has(path))) await this.making.join(path, () => this.make(artwork), left)
    return path
  }

  /** Makes a thumbnail; one that takes too long is made again as the picture under a moving hand is, which never does. */
  private make(artwork: Artwork): Started<void> {
    const document = loadArtwork(JSON.parse(artwork.document))
    const out = this.store.scratch()
    const planes = this.store.planes(artwork.accountId)
    let stopped = false
    const begin = (quick: boolean) =>
      this.threads.start('thumbnail', { document, pyramids: this.pyramidsOf(document), planes, longSide: THUMBNAIL_SIDE, out, quick })
    let task = begin(false)
    const made = async () => {
      try {
        await task.answer.catch(async (error: { code?: string }) => {
          if (error.code !== 'too-slow' || stopped) throw error
          task = begin(true)
          await task.answer
        })
        await this.store.keepThumbnail(out, artwork.id, artwork.revision)
      } catch (error) {
        if ((error as { code?: string }).code !== 'too-slow') throw error
        throw new ProblemException(
          503,
          'thumbnail-too-slow',
          'Too slow',
          'The small picture of this artwork takes too long to make. The artwork is safe; open it to see it.',
        )
      } finally {
        for (const file of [out, `${out}.part`, `${out}.part.tif`]) await rm(file, { force: true })
      }
    }
    return {
      answer: made(),
      cancel: () => {
        stopped = true
        task.cancel()
      },
    }
  }

  pyramidsOf(document: Document): Record<string, string> {
    return Object.fromEntries(assetsOf(document).map((a) => [a, this.store.pyramid(a)]))
  }
}
