// The kernel module: one file a kernel family, one line here.
export { copyRect, fillRect, replicateEdges } from './copy'
export { unpack, packRow, widenRow, to8, toRgb8, halve } from './pixels'
export { lut, greyMix, greyLinear } from './point'
export { lumaCurve, lumaMap, lumaShift, lumaGain, lumaMask } from './luma'
export { tileCurves } from './tile-curves'
export { hueShift, greyByHue } from './oklab'
export { mix, mixLab } from './mixer'
export { toneAlpha } from './ink'
export { nearestOklab, ciede2000, paletteGrid, nearestCiede } from './palette'
export { blend, replace } from './blend'
export { gaussianDirect } from './gaussian'
export { reduceCells, blurCells, enlargeCells } from './cells'
export { premultiplied, straightened } from './alpha'
export { matrix } from './matrix'
export { boxMean } from './box'
export { medianSmall, medianWide } from './median'
export { gradient, structureTensor } from './gradient'
export { histogram } from './histogram'
export { guidedProducts, guidedLines } from './guided'
export { guidedApply } from './guided-apply'
export { bilateral } from './bilateral'
export { resample, pick } from './resample'
export { warp } from './warp'
export { toneMode } from './mode'
export { tooth } from './tooth'
export { exp, log, pow, sin, cos } from './maths'

/** First byte of memory that belongs to the caller. */
export function heapBase(): usize {
  return __heap_base
}
