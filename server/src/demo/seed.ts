import { createReadStream, readdirSync } from 'node:fs'
import { join } from 'node:path'
import { madeBy, newLayer, newStep, recipeById, type Artwork } from '@nimble-quill/core'
import type { INestApplicationContext } from '@nestjs/common'
import { DEMO_EMAIL } from '../accounts/accounts.service.ts'
import { ArtworksService } from '../artworks/artworks.service.ts'
import { Account, Artwork as ArtworkRow, type Photo } from '../database/models.ts'
import { PhotosService } from '../photos/photos.service.ts'

/** Surfaces that reliefs and paper layers can go by, and washes. */
const PAPERS: Record<string, string> = {
  'wash-tide': 'Tide wash',
  'wash-coral': 'Coral wash',
  'paper-kraft': 'Kraft paper',
  'paper-coldpress': 'Cold-pressed paper',
  'canvas-weave': 'Canvas',
}

const TITLES: Record<string, string> = {
  'keeper-portrait': 'The lantern keeper',
  'heron-on-post': 'Heron on a post',
  boathouse: 'The boathouse',
  'lantern-stall': 'Lantern stall at dusk',
  'tin-boats': 'Tin boats',
  'marsh-sunset': 'Marsh at sunset',
}

/** Fills the demo studio with the photographs, papers, washes and a few begun artworks; what is there already is left. */
export async function seed(app: INestApplicationContext, folder: string): Promise<void> {
  const photos = app.get(PhotosService)
  const artworks = app.get(ArtworksService)
  const [account] = await Account.findOrCreate({ where: { email: DEMO_EMAIL }, defaults: { name: 'Brackwater studio', email: DEMO_EMAIL, passwordHash: null } })
  if ((await ArtworkRow.count({ where: { accountId: account.id } })) > 0) return
  for (const [file, title] of Object.entries(PAPERS))
    await photos.add(account.id, `${title}.jpg`, createReadStream(join(folder, 'papers', `${file}.jpg`)))
  const added = new Map<string, Photo>()
  const pictures = join(folder, 'photos')
  for (const file of readdirSync(pictures).filter((f) => f.endsWith('.jpg')).sort()) {
    const name = file.replace('.jpg', '')
    added.set(name, await photos.add(account.id, `${TITLES[name] ?? name}.jpg`, createReadStream(join(pictures, file))))
  }
  const begin = (name: string, title: string): Promise<Artwork> => artworks.begun(added.get(name)!, title)
  const byRecipe = async (recipe: string, name: string, title: string, values: Record<string, number | string>): Promise<Artwork> => {
    const artwork = await begin(name, title)
    return madeBy(artwork, recipeById(recipe), values)
  }
  const programme = await begin('boathouse', 'Programme cover, black and paper')
  const cut: Artwork = {
    ...programme,
    layers: [
      { ...programme.layers[0]!, chain: [newStep('black-white', { filter: 'yellow' }), newStep('gaussian-blur', { sigma: { value: 0.12, unit: '%' } }), newStep('threshold', { level: 96, softness: 6 })] },
      { ...newLayer('Warm paper', { type: 'fill', colour: '#f3e6c8', alpha: 1 }), blend: 'multiply' },
    ],
  }
  for (const document of [
    cut,
    await byRecipe('graphite', 'marsh-sunset', 'Marsh, fine point', { pencil: 22, darkness: 62 }),
    await byRecipe('gapped-tiles', 'tin-boats', 'Tiles for the ferry steps', { size: 30, grout: 'slate' }),
    await byRecipe('newspaper-print', 'lantern-stall', 'Stall, for the Lantern Week paper', { inks: 'four', screen: 62 }),
    await byRecipe('wash-and-ink', 'boathouse', 'Boathouse, wash and ink', { colour: 70 }),
    await byRecipe('graphite', 'heron-on-post', 'Heron for the poster', { pencil: 55, lead: 75 }),
    await byRecipe('graphite', 'keeper-portrait', 'The keeper in graphite', {}),
  ]) {
    const made = await artworks.fromDocument(account.id, document)
    // a slow machine makes it when the desk asks for it
    await artworks.thumbnail(account.id, made.id).catch((error: { errorCode?: string }) => {
      if (error.errorCode !== 'thumbnail-too-slow') throw error
    })
  }
}
