// The parts of a guided filter that are not means: He, Sun & Tang, "Guided image filtering", ECCV 2010 and TPAMI 35 (2013);
// on a reduced grid after He & Sun, "Fast guided filter", arXiv:1505.00996. The guide is the lightness of the picture itself.

// @ts-ignore: decorator
@inline
function luma(p: v128): f32 {
  return 0.2126 * f32x4.extract_lane(p, 0) + 0.7152 * f32x4.extract_lane(p, 1) + 0.0722 * f32x4.extract_lane(p, 2)
}

/**
 * Products of cells that are to be averaged: guide × cell, and (guide, guide², 0, 0).
 * @rows cells byGuide guide
 */
export function guidedProducts(cells: usize, cellsStride: i32, byGuide: usize, byGuideStride: i32, guide: usize, guideStride: i32, w: i32, h: i32): void {
  for (let y = 0; y < h; y++) {
    for (let x: usize = 0; x < <usize>w << 4; x += 16) {
      const p = v128.load(cells + x)
      const i = luma(p)
      v128.store(byGuide + x, f32x4.mul(p, f32x4.splat(i)))
      v128.store(guide + x, f32x4(i, i * i, 0, 0))
    }
    cells += cellsStride
    byGuide += byGuideStride
    guide += guideStride
  }
}

/**
 * Slope and level of the line that best fits each window: a = cov(guide, cell) / (var(guide) + eps), b = mean − a · mean of guide.
 * Takes the means of what guidedProducts made; writes a over `byGuide` and b over `cells`.
 * @rows cells byGuide guide
 */
export function guidedLines(cells: usize, cellsStride: i32, byGuide: usize, byGuideStride: i32, guide: usize, guideStride: i32, w: i32, h: i32, eps: f32): void {
  for (let y = 0; y < h; y++) {
    for (let x: usize = 0; x < <usize>w << 4; x += 16) {
      const mean = v128.load(cells + x)
      const i = load<f32>(guide + x)
      const variance = max<f32>(0, load<f32>(guide + x, 4) - i * i)
      const cov = f32x4.sub(v128.load(byGuide + x), f32x4.mul(mean, f32x4.splat(i)))
      const a = f32x4.mul(cov, f32x4.splat(<f32>1 / (variance + eps)))
      v128.store(byGuide + x, a)
      v128.store(cells + x, f32x4.sub(mean, f32x4.mul(a, f32x4.splat(i))))
    }
    cells += cellsStride
    byGuide += byGuideStride
    guide += guideStride
  }
}
