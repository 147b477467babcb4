import type { Kernels } from '../kernels/kernels.ts'
import type { Laying } from '../steps/contract.ts'
import { opponentsOf, type Opponents } from '../steps/line/colour-borders.ts'
import { coloursOf, type Colours } from '../steps/paint/colours.ts'
import { studyOf } from '../study/study.ts'

/** What a plan is laid from, of a picture of three bytes a pixel. */
export async function layingOf(kernels: Kernels, pixels: Uint8Array, w: number, h: number): Promise<Laying<Colours & Opponents>> {
  return kernels.scratch(w * h * 8, async (ptr) => {
    const codes = kernels.u16(ptr, w * h * 4)
    for (let i = 0; i < w * h; i++) for (let c = 0; c < 4; c++) codes[i * 4 + c] = c === 3 ? 65535 : pixels[i * 3 + c]! * 257
    const region = { x: 0, y: 0, w, h }
    const input = { ptr, stride: w * 8, region }
    const pause = async () => undefined
    const work = { input, kernels, level: 0, extent: region, pause }
    // all read the picture at once: it is gone as soon as this waits
    const [colours, opponents, study] = [coloursOf(work), opponentsOf(work), studyOf({ input, kernels, level: 0, pause })]
    return { study: await study, kernels, facts: { ...colours, ...(await opponents) }, extent: region, pause, progress: () => undefined }
  })
}
