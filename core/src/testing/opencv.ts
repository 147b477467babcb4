import { createRequire } from 'node:module'

/** What of OpenCV (its WebAssembly build, a general-purpose library) the tests hold kernels against. */
export interface Mat {
  rows: number
  cols: number
  data: Uint8Array
  data16U: Uint16Array
  data32F: Float32Array
  delete(): void
}
export interface OpenCv {
  Mat: new (rows?: number, cols?: number, type?: number) => Mat
  Size: new (w: number, h: number) => unknown
  Point: new (x: number, y: number) => unknown
  CLAHE: new (limit: number, tiles: unknown) => { apply(a: Mat, b: Mat): void; delete(): void }
  Canny(a: Mat, b: Mat, low: number, high: number, aperture: number, l2: boolean): void
  GaussianBlur(a: Mat, b: Mat, size: unknown, sigmaX: number, sigmaY: number, border: number): void
  filter2D(a: Mat, b: Mat, depth: number, kernel: Mat, anchor: unknown, delta: number, border: number): void
  CV_8UC1: number
  CV_8UC3: number
  CV_16UC4: number
  CV_32FC3: number
  CV_32FC1: number
  CV_32FC4: number
  CV_32F: number
  CV_64FC1: number
  BORDER_REPLICATE: number
  BORDER_CONSTANT: number
  INTER_NEAREST: number
  INTER_AREA: number
  INTER_CUBIC: number
  INTER_LINEAR: number
  WARP_INVERSE_MAP: number
  blur(a: Mat, b: Mat, size: unknown, anchor: unknown, border: number): void
  medianBlur(a: Mat, b: Mat, size: number): void
  bilateralFilter(a: Mat, b: Mat, d: number, sigmaColour: number, sigmaSpace: number, border: number): void
  Sobel(a: Mat, b: Mat, depth: number, dx: number, dy: number, size: number, scale: number, delta: number, border: number): void
  Scharr(a: Mat, b: Mat, depth: number, dx: number, dy: number, scale: number, delta: number, border: number): void
  resize(a: Mat, b: Mat, size: unknown, fx: number, fy: number, how: number): void
  warpAffine(a: Mat, b: Mat, m: Mat, size: unknown, flags: number, border: number): void
  warpPerspective(a: Mat, b: Mat, m: Mat, size: unknown, flags: number, border: number): void
  dilate(a: Mat, b: Mat, kernel: Mat, anchor: unknown, n: number, border: number): void
  erode(a: Mat, b: Mat, kernel: Mat, anchor: unknown, n: number, border: number): void
  floodFill(a: Mat, mask: Mat, seed: unknown, value: unknown, rect: unknown, low: unknown, high: unknown, flags: number): number
  Rect: new (x: number, y: number, w: number, h: number) => unknown
  Scalar: new (...v: number[]) => unknown
  transform(a: Mat, b: Mat, m: Mat): void
  matFromArray(rows: number, cols: number, type: number, data: ArrayLike<number>): Mat
}

let started: Promise<{ cv: OpenCv }> | null = null

/** Starts OpenCV once. In an object, because the module itself looks like a promise. */
export function openCv(): Promise<{ cv: OpenCv }> {
  started ??= new Promise((done) => {
    const cv = createRequire(import.meta.url)('@techstark/opencv-js') as OpenCv & { onRuntimeInitialized?: () => void }
    if (cv.Mat) done({ cv })
    else cv.onRuntimeInitialized = () => done({ cv })
  })
  return started
}
