export * from './base/errors.ts'
export * from './base/snap.ts'
export * from './base/transform.ts'
export * from './blend/modes.ts'
export * from './blend/span.ts'
export * from './colour/oklab.ts'
export * from './colour/srgb.ts'
export * from './artwork/schema.ts'
export * from './artwork/layers.ts'
export * from './artwork/inputs.ts'
export * from './artwork/papers.ts'
export * from './artwork/framing.ts'
export * from './artwork/colourways.ts'
export * from './artwork/panels.ts'
export * from './artwork/own-recipe.ts'
export * from './colour/harmony.ts'
export * from './artwork/placing.ts'
export * from './artwork/spaces.ts'
export * from './artwork/load.ts'
export * from './artwork/json-schema.ts'
export * from './artwork/planes.ts'
export * from './areas/order.ts'
export * from './artwork/area-mask.ts'
export type { AreaOutline } from './engine/area-outline.ts'
export {
  constantEntry,
  constantPixel,
  emptyPlane,
  entryOf,
  indexOf,
  isPlanePart,
  nameOfBytes,
  parsePage,
  parseRoot,
  PLANE_TILE,
  tileBytes,
  tileNames,
  unreadable,
  withEntries,
  type Blob as PlaneBlob,
  type Plane as PaintedPlane,
} from './planes/plane.ts'
export * from './planes/codec.ts'
export * from './strokes/brush.ts'
export { dabAt, type Sized } from './strokes/dabs.ts'
export { SAMPLE_UNIT, FULL_PRESSURE, type Sample } from './strokes/path.ts'
export { tips, tipIds, type TipId } from './strokes/tips.ts'
export * from './artwork/look-spot.ts'
export * from './base/study-parts.ts'
export * from './artwork/pins.ts'
export * from './artwork/commands.ts'
export * from './artwork/history.ts'
export * from './artwork/recipe.ts'
export * from './recipes/registry.ts'
export * from './steps/contract.ts'
export type {
  BoundsSpec,
  ChoiceSpec,
  ColourSpec,
  CurvePoint,
  CurveSpec,
  FlagSpec,
  GradientSpec,
  GradientStop,
  HuesSpec,
  Ellipse,
  EllipseSpec,
  Length,
  LengthSpec,
  MixSpec,
  NumberSpec,
  PaletteSpec,
  ParamSpec,
  ParamSpecs,
  PictureRef,
  PictureSpec,
  Place,
  PlaceSpec,
  RoseSpec,
  Scale,
  SeedSpec,
  StoredParams,
} from './steps/params/index.ts'
export * from './ink/ink.ts'
export { boxOfStroke } from './ink/marks.ts'
export * from './ink/depth.ts'
export { simplified } from './paths/simplify.ts'
export { drawnLines, hasLines } from './engine/line-file.ts'
export { readSvg, type ReadLines } from './formats/svg-read.ts'
export { writeSvg, type LineFile } from './formats/svg.ts'
export { gradientAt } from './engine/gradient-fill.ts'
export {
  convertLength,
  formatParam,
  HALF_AXIS,
  HUE_ANGLES,
  HUES,
  MARK_PIXELS,
  mm,
  paramSchema,
  percent,
  px,
  resolveLength,
  typeOf,
} from './steps/params/index.ts'
export * from './steps/registry.ts'
export { blurReach, blurWhole } from './steps/smooth/blurred.ts'
export { guidedInto, guidedNeeds } from './steps/smooth/guided.ts'
export { resampleInto, tapsFor, type Resampling } from './kernels/taps.ts'
export { monotoneCubic } from './steps/tone/curves.ts'
export { boundariesOf } from './steps/tone/posterize.ts'
export { colourAt, gradientSets } from './steps/colour/gradient-map.ts'
export type { Suitability } from './study/suitability.ts'
export { takingOf, type Taking } from './recipes/taking.ts'
export { histogramOf, otsu, toneOfShare, type Histogram } from './steps/tone/histogram.ts'
export * from './base/region.ts'
export * from './engine/graph.ts'
export * from './engine/engine.ts'
export { blankAt } from './engine/blank.ts'
export { planeOn, SAMPLE_NUMBERS, type PaintView, type StrokeOrder } from './engine/stroke-session.ts'
export { Painter, type Laying, type Painted } from './engine/painter.ts'
export { type Signal } from './engine/request.ts'
export * from './engine/host.ts'
export * from './engine/sources.ts'
export * from './engine/pyramid.ts'
export * from './artwork/cycles.ts'
export { LONGEST_SIDE } from './artwork/bounds.ts'
export * from './kernels/kernels.ts'
export type { CrewStart } from './kernels/crew.ts'
export * from './formats/tiff.ts'
