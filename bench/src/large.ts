import { mkdtempSync, rmSync } from 'node:fs'
import { availableParallelism, tmpdir } from 'node:os'
import { join } from 'node:path'
import { loadKernels } from '@nimble-quill/core/node'
import { cutPyramid, PyramidFiles } from '@nimble-quill/server/decoding'
import { newEngine, renderToFile } from '@nimble-quill/server/rendering'
import sharp from 'sharp'
import { artworks } from './chains.ts'
import { mosaic } from './picture.ts'

// One large render in a process of its own, as the server does it: seconds, peak memory above what was there before, and how
// soon it stops when it is cancelled in the middle.

const [name, megapixels] = [process.argv[2]!, Number(process.argv[3])]
const folder = mkdtempSync(join(tmpdir(), 'quill-large-'))
const at = (file: string) => join(folder, file)
try {
  if (process.argv[4] !== 'render') {
    // the photo is made in another process, so that its memory does not count
    const { spawnSync } = await import('node:child_process')
    const p = await mosaic(join(import.meta.dirname, '../../demo/photos'), megapixels)
    await sharp(p.pixels, { raw: { width: p.width, height: p.height, channels: 3 }, limitInputPixels: false })
      .jpeg({ quality: 90 })
      .toFile(at('photo.jpg'))
    const kernels = await loadKernels()
    await cutPyramid(kernels, at('photo.jpg'), at('photo.pyramid'), at('scratch'))
    const { stdout, stderr } = spawnSync(
      process.execPath,
      [process.argv[1]!, name, String(megapixels), 'render', at('photo.pyramid'), String(p.width), String(p.height)],
      {
        maxBuffer: 1e7,
      },
    )
    process.stderr.write(stderr)
    console.log(stdout.toString().trim())
  } else {
    const [pyramid, width, height] = [process.argv[5]!, Number(process.argv[6]), Number(process.argv[7])]
    const kernels = await loadKernels(2 ** 30, Math.min(8, availableParallelism()))
    const sources = new PyramidFiles(() => pyramid)
    const engine = newEngine(kernels, sources)
    const artwork = artworks[name]!({ asset: '0'.repeat(64), width, height, title: 'large' })
    await new Promise((r) => setTimeout(r, 500))
    const idle = process.memoryUsage().rss
    const started = performance.now()
    await renderToFile(engine, artwork, at('out.png'), { format: 'png' })
    const seconds = (performance.now() - started) / 1000
    const memory = process.resourceUsage().maxRSS * 1024 - idle
    engine.clear()
    const signal = { cancelled: false }
    let asked = 0
    let cancel = 0
    await renderToFile(engine, artwork, at('again.png'), {
      format: 'png',
      signal,
      onProgress: (share) => {
        if (share < 0.3 || asked) return
        // in the midst of a strip
        setTimeout(() => {
          asked = performance.now()
          signal.cancelled = true
        }, 40)
        asked = performance.now()
      },
    }).catch(() => {
      cancel = performance.now() - asked
    })
    await sources.close()
    console.log(JSON.stringify({ seconds, memory, cancel }))
    process.exit()
  }
} finally {
  rmSync(folder, { recursive: true, force: true })
}
