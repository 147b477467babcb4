import { grow, union, type Region } from '../../base/region.ts'
import type { Kernels } from '../../kernels/kernels.ts'
import { lumaBt709 } from '../colour/black-white.ts'
import { defineStep, type Analysis, type Pic } from '../contract.ts'
import { choice, length, percent, rose, share, tone } from '../params/index.ts'
import { addressOf } from '../picture.ts'
import { blurReach, blurWhole } from '../smooth/blurred.ts'

type Detector = 'sobel' | 'scharr' | 'dog' | 'canny'

/** How far a faint part of a line may be from a strong one and still belong to it, pixels of the level. */
const LINK = 24
/** The wide Gaussian of a difference of Gaussians, in narrow ones: Marr and Hildreth's 1.6. */
const WIDE = 1.6

/** How far inked lines reach beyond their crests. */
const penReach = (weight: number) => Math.ceil(weight / 2) + 2
const linked = (detector: Detector) => detector === 'canny' || detector === 'dog'
/** Runs of so many pixels are crumbs. */
const shortOf = (detail: number) => Math.min(24, Math.round(detail))
/** What must be known round a region to find the crests in it. */
const around = (region: Region, detector: Detector, weight: number, detail: number) =>
  grow(region, penReach(weight) + (linked(detector) ? LINK : 0) + shortOf(detail))
/** The deviation with which the smallest detail is calmed: a detail is seen whole at about three deviations. */
const calmOf = (detail: number) => Math.max(0.35, detail / 3)

function blurredRegion(region: Region, sigma: number): Region {
  return blurReach(grow(region, 3), sigma)
}

/**
 * The edges of a region as crests: four floats a pixel, as the kernel writes them; heights are contrasts of tone 0…1.
 * @param input of what contours needs for this region
 * @param crest address of region.w × region.h × 16 bytes
 */
export function crestsInto(
  kernels: Kernels,
  input: Pic,
  crest: number,
  region: Region,
  p: { detector: Detector; detail: number; faintest: number; rose: readonly number[] },
): void {
  const { raw } = kernels
  const sigma = calmOf(p.detail)
  const wide = grow(region, 3)
  const plane = grow(region, 2)
  const bytes = wide.w * wide.h * 8
  const size = plane.w * plane.h
  kernels.scratch(2 * bytes + size * 12 + 64, (blurred) => {
    const second = blurred + bytes
    const slopes = second + bytes
    const heights = slopes + size * 8
    const fill = (s: number, to: number) => {
      const need = blurReach(wide, s)
      blurWhole(kernels, { ptr: addressOf(input, need), stride: input.stride, region: need }, { ptr: to, stride: wide.w * 8, region: wide }, s)
    }
    fill(sigma, blurred)
    const side = p.detector === 'scharr' ? 0.1875 : 0.25
    raw.gradient(blurred, wide.w * 8, slopes, plane.w * 8, plane.w, plane.h, ...lumaBt709, side)
    let unit: number
    if (p.detector === 'dog') {
      fill(sigma * WIDE, second)
      const inner = (at: number) => at + wide.w * 8 + 8
      kernels.scratch(size * 8, (planes) => {
        raw.lumaPlane(inner(blurred), wide.w * 8, planes, plane.w * 4, plane.w, plane.h)
        raw.lumaPlane(inner(second), wide.w * 8, planes + size * 4, plane.w * 4, plane.w, plane.h)
        raw.darkSide(planes, plane.w * 4, planes + size * 4, plane.w * 4, heights, plane.w * 4, plane.w, plane.h)
      })
      // the largest difference at a step of 1: 0.11 of it by the error function, and twice that at a thin line
      unit = 0.22
    } else {
      raw.gradientLength(slopes, plane.w * 8, heights, plane.w * 4, plane.w, plane.h)
      // the slope of a step of 1 after the blur, the pixel and the operator
      unit = 1 / Math.sqrt(2 * Math.PI * (sigma * sigma + 0.6))
    }
    const low = (p.faintest / 255) * unit
    kernels.scratch(64, (weights) => {
      kernels.f32(weights, 16).set(p.rose)
      raw.crests(heights, plane.w * 4, slopes, plane.w * 8, crest, region.w * 16, region.w, region.h, weights, low * 0.5, p.detector === 'dog' ? 1 : 0)
    })
    const [faint, steps] = linked(p.detector) ? [low * 0.5, LINK] : [low, 0]
    raw.linkCrests(crest, region.w * 16, region.w, region.h, faint, low, steps, shortOf(p.detail))
  })
}

/** The height of a crest whose line is drawn at full weight. */
function fullHeight(detector: Detector, detail: number, faintest: number): number {
  const sigma = calmOf(detail)
  const unit = detector === 'dog' ? 0.22 : 1 / Math.sqrt(2 * Math.PI * (sigma * sigma + 0.6))
  return unit * Math.min(1, (faintest / 255) * 3 + 0.12)
}

/** How many edges of a picture face each of 16 ways: what a rose is drawn from. */
export function facingsOf({ input, kernels }: Analysis, { detail, faintest }: { detail: number; faintest: number }): number[] {
  const { region } = input
  const sigma = calmOf(detail)
  if (region.w < 8 || region.h < 8) return Array.from({ length: 16 }, () => 0)
  const inner = grow(region, -2)
  const need = blurReach(grow(inner, 1), sigma)
  return kernels.scratch((need.w * need.h + (inner.w + 2) * (inner.h + 2)) * 8 + inner.w * inner.h * 8 + 128, (at) => {
    const blurred = at + need.w * need.h * 8
    const slopes = blurred + (inner.w + 2) * (inner.h + 2) * 8
    const sums = slopes + inner.w * inner.h * 8
    // the border repeated, as far as the blur looks
    const [x, y] = [region.x - need.x, region.y - need.y]
    const [left, top] = [Math.max(0, -x), Math.max(0, -y)]
    const [w, h] = [Math.min(need.w, x + region.w) - Math.max(0, x), Math.min(need.h, y + region.h) - Math.max(0, y)]
    const from = Math.max(0, y) * need.w * 8 + Math.max(0, x) * 8
    kernels.raw.copyRect(input.ptr + top * input.stride + left * 8, input.stride, at + from, need.w * 8, w * 8, h)
    kernels.raw.replicateEdges(at, need.w * 8, need.w, need.h, Math.max(0, x), Math.max(0, y), Math.max(0, x) + w, Math.max(0, y) + h)
    blurWhole(kernels, { ptr: at, stride: need.w * 8, region: need }, { ptr: blurred, stride: (inner.w + 2) * 8, region: grow(inner, 1) }, sigma)
    kernels.raw.gradient(blurred, (inner.w + 2) * 8, slopes, inner.w * 8, inner.w, inner.h, ...lumaBt709, 0.1875)
    kernels.f32(sums, 16).fill(0)
    const unit = 1 / Math.sqrt(2 * Math.PI * (sigma * sigma + 0.6))
    kernels.raw.edgeRose(slopes, inner.w * 8, inner.w, inner.h, sums, (faintest / 255) * unit)
    return Array.from(kernels.f32(sums, 16))
  })
}

export const contours1 = defineStep({
  id: 'contours',
  version: 1,
  title: 'Contours',
  group: 'line',
  kind: 'neighbourhood',
  help: 'The edges of forms as ink lines; which side an edge faces can decide whether it is drawn.',
  method:
    'Gaussian, then the crests of the gradient (Sobel and Feldman 1968; Scharr 2000), linked by two thresholds (Canny 1986), or of the dark side of a difference of Gaussians (Marr and Hildreth 1980); drawn with a round pen whose width follows the contrast',
  params: {
    detector: choice({
      title: 'Found by',
      default: 'canny',
      options: [
        { value: 'canny', title: 'Linked edges (Canny)' },
        { value: 'dog', title: 'Dark side (difference of Gaussians)' },
        { value: 'sobel', title: 'Every edge (Sobel)' },
        { value: 'scharr', title: 'Every edge, all directions alike (Scharr)' },
      ],
      help: 'Linked edges run on where they grow faint; the dark side also draws thin dark lines once, not twice.',
    }),
    detail: length({
      title: 'Smallest detail',
      default: percent(0.7),
      min: 0.5,
      max: 120,
      feel: 'log',
      help: 'Forms smaller than this are not drawn: pores, grain, distant leaves.',
    }),
    faintest: tone({ title: 'Faintest edge', default: 30, min: 1, max: 160, help: 'Edges whose two sides differ by fewer tones stay undrawn.' }),
    weight: length({ title: 'Line weight', default: percent(0.32), min: 0.4, max: 60, feel: 'log', help: 'How thick a strong line is.' }),
    taper: share({ title: 'Taper', default: 0.7, help: 'How much thinner faint edges are drawn than strong ones.' }),
    facing: rose({
      title: 'Edge rose',
      help: 'Edges by the side they face, from dark to light: pull a sector in and edges that face that way are drawn less, or not at all.',
    }),
    ground: choice({
      title: 'Lines',
      default: 'dark',
      options: [
        { value: 'dark', title: 'Dark on light' },
        { value: 'light', title: 'Light on dark' },
      ],
      help: 'Ink on paper, or chalk on slate.',
    }),
  },
  inspect: facingsOf,
  // where a faint line ends is decided pixel by pixel
  coarsest: () => 0,
  needs: (region, { detector, detail, weight }) => {
    const seen = around(region, detector, weight, detail)
    const sigma = calmOf(detail)
    return detector === 'dog' ? union(blurredRegion(seen, sigma), blurredRegion(seen, sigma * WIDE)) : blurredRegion(seen, sigma)
  },
  run: ({ input, output, kernels }, { detector, detail, faintest, weight, taper, facing, ground }) => {
    const area = around(output.region, detector, weight, detail)
    const r = penReach(weight)
    const inked = grow(output.region, r)
    kernels.scratch(area.w * area.h * 16, (crest) => {
      crestsInto(kernels, input, crest, area, { detector, detail, faintest, rose: facing })
      const from = crest + ((inked.y - area.y) * area.w + (inked.x - area.x)) * 16
      const { w, h } = output.region
      const src = addressOf(input, output.region)
      const full = fullHeight(detector, detail, faintest)
      kernels.raw.inkCrests(from, area.w * 16, src, input.stride, output.ptr, output.stride, w, h, r, weight / 2, full, taper, ground === 'light' ? 1 : 0)
    })
  },
})
