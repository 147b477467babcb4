import { Inject, Injectable } from '@nestjs/common'
import type { ArtworkAnswer, ArtworkHead, Saved } from '@nimble-quill/contracts'
import { assetsOf, artworkFromPhoto, loadArtwork, QuillError, richestSpot, type Artwork as Document } from '@nimble-quill/core'
import sharp from 'sharp'
import { Artwork, type Photo } from '../database/models.ts'
import { PhotosService } from '../photos/photos.service.ts'
import type { Store } from '../photos/store.ts'
import { STORE, THREADS } from '../photos/tokens.ts'
import { notFound, ProblemException } from '../problems/problem.ts'
import type { PictureThreads } from '../workers/picture-threads.ts'

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
export function whole(a: Artwork): ArtworkAnswer {
  return { ...head(a), document: JSON.parse(a.document) as unknown }
}

/** Artworks; every query is bound to their owner. */
@Injectable()
export class ArtworksService {
  private readonly photos: PhotosService
  private readonly store: Store
  private readonly threads: PictureThreads

  constructor(photos: PhotosService, @Inject(STORE) store: Store, @Inject(THREADS) threads: PictureThreads) {
    this.photos = photos
    this.store = store
    this.threads = threads
  }

  list(accountId: string): Promise<Artwork[]> {
    return Artwork.findAll({ where: { accountId, deletedAt: null }, order: [['updatedAt', 'DESC']], attributes: { exclude: ['document'] } })
  }

  async find(accountId: string, id: string, deletedToo = false): Promise<Artwork> {
    const artwork = await Artwork.findOne({ where: { id, accountId, ...(deletedToo ? {} : { deletedAt: null }) } })
    if (!artwork) throw notFound('artwork')
    return artwork
  }

  /** Reads a document, and makes sure that its photos are the account's own. */
  private async checked(accountId: string, json: unknown): Promise<Document> {
    const document = loadArtwork(json)
    for (const asset of assetsOf(document)) {
      if (!(await this.photos.owns(accountId, asset)))
        throw new QuillError('missing-photo', 'A photo of this artwork is not among yours. Nothing was saved; add the photo to the desk first.')
    }
    return document
  }

  async fromPhoto(accountId: string, photoId: string): Promise<Artwork> {
    const photo = await this.photos.find(accountId, photoId)
    return this.insert(accountId, await this.begun(photo, photo.name.replace(/\.[a-z0-9]{2,5}$/i, '')))
  }

  /** The document of a new artwork from a photo, its look spot where the photo is richest. */
  async begun(photo: Photo, title: string): Promise<Document> {
    const { asset, width, height } = photo
    const { data, info } = await sharp(this.store.small(asset, 320)).greyscale().raw().toBuffer({ resolveWithObject: true })
    const spot = richestSpot(data, info.width, info.height)
    return { ...artworkFromPhoto({ asset, width, height, title }), lookSpot: { x: Math.round(spot.x * width), y: Math.round(spot.y * height) } }
  }

  async fromDocument(accountId: string, json: unknown): Promise<Artwork> {
    return this.insert(accountId, await this.checked(accountId, json))
  }

  private insert(accountId: string, document: Document): Promise<Artwork> {
    return Artwork.create({ accountId, title: document.title, document: JSON.stringify(document), width: document.sheet.w, height: document.sheet.h })
  }

  /** Saves a change that is based on a revision; refused when another came first. */
  async save(accountId: string, id: string, revision: number, json: unknown): Promise<Saved> {
    const document = await this.checked(accountId, json)
    const updatedAt = new Date()
    const [changed] = await Artwork.update(
      { title: document.title, document: JSON.stringify(document), width: document.sheet.w, height: document.sheet.h, revision: revision + 1, updatedAt },
      { where: { id, accountId, revision, deletedAt: null } },
    )
    if (changed === 0) {
      const now = await this.find(accountId, id)
      throw new ProblemException(
        409,
        'saved-elsewhere',
        'Changed elsewhere',
        'This artwork was changed elsewhere meanwhile. Nothing is lost: keep your version as a copy, or take the newer one.',
        { revision: now.revision, updatedAt: now.updatedAt.toISOString() },
      )
    }
    return { revision: revision + 1, updatedAt: updatedAt.toISOString() }
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

  /** Path of a small picture of the saved artwork; made when it is not there. */
  async thumbnail(accountId: string, id: string): Promise<string> {
    const artwork = await this.find(accountId, id)
    const path = this.store.thumbnail(artwork.id, artwork.revision)
    if (!(await this.store.has(path))) {
      const document = loadArtwork(JSON.parse(artwork.document))
      await this.threads.start('thumbnail', { document, pyramids: this.pyramidsOf(document), longSide: 480, out: path }).answer
    }
    return path
  }

  pyramidsOf(document: Document): Record<string, string> {
    return Object.fromEntries(assetsOf(document).map((a) => [a, this.store.pyramid(a)]))
  }
}
