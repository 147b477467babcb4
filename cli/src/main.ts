import { mkdtemp, readFile, rm } from 'node:fs/promises'
import { availableParallelism, tmpdir } from 'node:os'
import { basename, extname, join } from 'node:path'
import {
  artworkFromPhoto,
  assetsOf,
  instantiate,
  madeBy,
  loadArtwork,
  loadRecipe,
  newStep,
  QuillError,
  recipeById,
  type Artwork,
  type PhotoRef,
  type PictureRef,
  type Recipe,
} from '@nimble-quill/core'
import { loadKernels } from '@nimble-quill/core/node'
import { cutPyramid, hashFile, lookSpotOf, PyramidFiles, smallCopies, SPOT_SIDE } from '@nimble-quill/server/decoding'
import { newEngine, renderToFile } from '@nimble-quill/server/rendering'
import { Helped, listing, parseArguments, PictureFile, UsageError, type Arguments } from './arguments.ts'

async function json(path: string): Promise<unknown> {
  let text: string
  try {
    text = await readFile(path, 'utf8')
  } catch {
    throw new UsageError(`There is no file “${path}” to read.`)
  }
  try {
    return JSON.parse(text)
  } catch {
    throw new UsageError(`“${path}” is not JSON.`)
  }
}

async function recipeNamed(name: string): Promise<Recipe> {
  if (/\.json$/i.test(name)) return loadRecipe(await json(name))
  return recipeById(name)
}

/** The artwork the arguments ask for, on this photo. `given`: the SHA-256 of every picture there is. */
async function artworkFor(a: Arguments, photo: PhotoRef, given: ReadonlySet<string>, spot: () => Promise<Artwork['lookSpot']>): Promise<Artwork> {
  if (a.artwork !== null) {
    const artwork = loadArtwork(await json(a.artwork))
    for (const asset of assetsOf(artwork)) {
      if (!given.has(asset)) {
        throw new QuillError(
          'missing-photo',
          `The artwork is made of another picture than ${[a.photo, ...a.pictures].join(', ')}. Nothing was written; give the file with SHA-256 ${asset} as the photo or with --picture.`,
        )
      }
    }
    return artwork
  }
  const artwork = { ...artworkFromPhoto(photo), lookSpot: await spot() }
  const base = artwork.layers[0]!
  if (a.recipe !== null) return madeBy(artwork, await recipeNamed(a.recipe), a.controls)
  return { ...artwork, layers: [{ ...base, chain: a.steps.map((s) => newStep(s.id, s.values)) }] }
}

/** Codes of mistakes in the call rather than in the work. */
const wrongCall = new Set(['unknown-recipe', 'unknown-control', 'unknown-step', 'unknown-param', 'param-invalid'])

/** One go at it, by so many threads. */
async function render(argv: readonly string[], threads: number): Promise<void> {
  const a = parseArguments(argv)
  if (a.list) return console.log(listing(a.json))
  // recipes are looked up before the photo is decoded, so that a wrong name is told at once
  if (a.recipe !== null) instantiate(await recipeNamed(a.recipe), { type: 'open-photo' }, a.controls)
  const folder = await mkdtemp(join(tmpdir(), 'nimble-quill-'))
  try {
    const kernels = await loadKernels(2 ** 30, threads)
    const pyramids = new Map<string, string>()
    const cut = async (path: string): Promise<PictureRef> => {
      const asset = await hashFile(path).catch(() => {
        throw new UsageError(`There is no picture “${path}” to read.`)
      })
      const pyramid = join(folder, `${pyramids.size}.pyramid`)
      const { width, height } = await cutPyramid(kernels, path, pyramid, join(folder, 'scratch'))
      pyramids.set(asset, pyramid)
      return { asset, width, height }
    }
    const photo = await cut(a.photo!)
    for (const path of a.pictures) await cut(path)
    for (const { values } of a.steps) for (const [name, v] of Object.entries(values)) if (v instanceof PictureFile) values[name] = await cut(v.path)
    // found as the desk finds it, so that what is begun here is what is begun there
    const spot = async () => {
      const small = join(folder, 'small.webp')
      await smallCopies(kernels, pyramids.get(photo.asset)!, { [SPOT_SIDE]: small })
      return lookSpotOf(small, photo)
    }
    const artwork = await artworkFor(a, { ...photo, title: basename(a.photo!, extname(a.photo!)) }, new Set(pyramids.keys()), spot)
    const sources = new PyramidFiles((x) => pyramids.get(x) ?? null, a.painted)
    const size = await renderToFile(newEngine(kernels, sources), artwork, a.out, {
      format: /\.svg$/i.test(a.out) ? (a.centreLines ? 'svg-lines' : 'svg') : /\.png$/i.test(a.out) ? 'png' : 'jpeg',
      quality: a.quality,
      level: a.level,
      ...(a.ppi ? { ppi: a.ppi } : {}),
      ...(a.longSide ? { longSide: a.longSide } : {}),
    })
    await sources.close()
    console.log(`${a.out}: ${size.width} × ${size.height} px`)
  } finally {
    await rm(folder, { recursive: true, force: true })
  }
}

/** Renders as the arguments say. Returns the exit code: 0, 1 (failed), 2 (called wrongly). */
export async function main(argv: readonly string[]): Promise<number> {
  try {
    try {
      await render(argv, Math.min(8, availableParallelism()))
    } catch (error) {
      if (!(error instanceof QuillError) || error.code !== 'kernel-failed') throw error
      // as on the bench and the server: once more by fresh kernels; here by a thread that needs no other
      console.error(`The picture engine failed (${String(error.details['cause'] ?? 'cause unknown')}). Nothing was written; trying once more, by one thread.`)
      await render(argv, 1)
    }
    return 0
  } catch (error) {
    if (error instanceof Helped) {
      console.log(error.message)
      return 0
    }
    if (error instanceof UsageError || (error instanceof QuillError && wrongCall.has(error.code))) {
      console.error(error.message)
      return 2
    }
    if (error instanceof QuillError) console.error(error.message)
    else {
      const { code, message } = error as NodeJS.ErrnoException
      console.error(
        code === 'ENOSPC'
          ? 'The disk is full. The photo is untouched and no half-written file is left; make room and render again.'
          : code === 'ENOENT' || code === 'EACCES'
            ? `The result cannot be written there (${message}). The photo is untouched; choose another --out.`
            : `The render failed: ${message}. The photo is untouched and no half-written file is left.`,
      )
    }
    return 1
  }
}
