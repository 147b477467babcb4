// npm run contact-sheet -- STEPS OR RECIPES --photos FOLDER [--out FOLDER]: what steps and recipes make of photographs, at fit and at 100 %, as sheets to look at.
// One sheet a step or recipe, a row a photo: the photo, the result at fit, the result pixel for pixel round the look spot. A step may be given values:
// "hatching layers=3 spacing=1.2mm". Where a photo's look spot is not its middle, look-spots.json in the folder says so: { "portrait.jpg": [0.4, 0.3] }.
import { execFile } from 'node:child_process'
import { existsSync, mkdirSync, mkdtempSync, readdirSync, readFileSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { basename, extname, join, resolve } from 'node:path'
import { parseArgs, promisify } from 'node:util'
import { Stop, root, script } from './lib/say.mjs'
import { build, ensurePackages } from './lib/setup.mjs'

await script(async () => {
  const { values, positionals } = parseArgs({
    allowPositionals: true,
    options: { photos: { type: 'string' }, out: { type: 'string', default: 'contact-sheets' }, 'long-side': { type: 'string' } },
  })
  if (positionals.length === 0 || !values.photos || !existsSync(resolve(process.env.INIT_CWD ?? '.', values.photos))) {
    throw new Stop('Usage: npm run contact-sheet -- STEPS OR RECIPES --photos FOLDER [--out FOLDER]; the folder holds photographs (JPEG, PNG, WebP).')
  }
  await ensurePackages()
  await build()
  process.chdir(process.env.INIT_CWD ?? process.cwd())

  const run = promisify(execFile)
  const { default: sharp } = await import('sharp')
  const cli = join(root, 'cli/dist/bin.js')
  const { recipes } = JSON.parse((await run(process.execPath, [cli, '--list', '--json'], { maxBuffer: 2 ** 26 })).stdout)
  const known = new Set(recipes.map((r) => r.id))
  const photos = readdirSync(values.photos)
    .filter((name) => /\.(jpe?g|png|webp)$/i.test(name))
    .sort()
  const spotsFile = join(values.photos, 'look-spots.json')
  const spots = existsSync(spotsFile) ? JSON.parse(readFileSync(spotsFile, 'utf8')) : {}
  const [H, OWN, WIDE, GAP, ROWS] = [380, 230, 420, 6, 3]

  const fit = (file, w) =>
    sharp(file).rotate().resize({ width: w, height: H, fit: 'inside', withoutEnlargement: false }).flatten({ background: '#fff' }).toBuffer()
  async function detail(file, [sx, sy]) {
    const { width, height } = await sharp(file).metadata()
    const [w, h] = [Math.min(WIDE, width), Math.min(H, height)]
    const at = (size, part, by) => Math.round(Math.max(0, Math.min(size - part, size * by - part / 2)))
    return sharp(file)
      .extract({ left: at(width, w, sx), top: at(height, h, sy), width: w, height: h })
      .flatten({ background: '#fff' })
      .toBuffer()
  }

  mkdirSync(values.out, { recursive: true })
  const work = mkdtempSync(join(tmpdir(), 'contact-'))
  try {
    for (const thing of positionals) {
      const [id, ...given] = thing.split(/\s+/)
      const ask = known.has(id) || id.endsWith('.json') ? ['--recipe', id, ...given.flatMap((g) => ['--set', g])] : ['--step', id, ...given]
      const rows = []
      const open = photos.map((photo, i) => ({ photo, i }))
      const next = async () => {
        for (let job = open.shift(); job; job = open.shift()) {
          const out = join(work, `${job.i}.png`)
          const began = Date.now()
          const size = values['long-side'] ? ['--long-side', values['long-side']] : []
          await run(process.execPath, [cli, join(values.photos, job.photo), ...ask, ...size, '--out', out])
          const seconds = ((Date.now() - began) / 1000).toFixed(1)
          rows[job.i] = [await fit(join(values.photos, job.photo), OWN), await fit(out, WIDE), await detail(out, spots[job.photo] ?? [0.5, 0.5])]
          rmSync(out)
          console.log(`${thing}: ${job.photo} (${seconds} s)`)
        }
      }
      await Promise.all([next(), next()])
      for (let from = 0; from < rows.length; from += ROWS) {
        const part = rows.slice(from, from + ROWS)
        const layers = part.flatMap((cells, r) =>
          cells.map((input, c) => ({ input, top: GAP + r * (H + GAP), left: GAP + [0, OWN + GAP, OWN + WIDE + 2 * GAP][c] })),
        )
        const sheet = join(
          values.out,
          `${basename(id, extname(id))}${given.length ? `-${given.join('-').replace(/[^\w.-]/g, '')}` : ''}-${from / ROWS + 1}.png`,
        )
        await sharp({ create: { width: OWN + 2 * WIDE + 4 * GAP, height: part.length * (H + GAP) + GAP, channels: 3, background: '#8a8a8a' } })
          .composite(layers)
          .png()
          .toFile(sheet)
        console.log(sheet)
      }
    }
  } finally {
    rmSync(work, { recursive: true, force: true })
  }
})
