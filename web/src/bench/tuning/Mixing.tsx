import { Select } from '@mantine/core'
import { blendModes, blendModeTitle, type Artwork, type BlendMode, type Span, type StepUse } from '@nimble-quill/core'
import { NumberControl } from './NumberControl.tsx'
import { SpanEditor } from './widgets/SpanEditor.tsx'
import tuningCss from './tuning.module.css'

const BLENDS = blendModes.map((m) => ({ value: m, label: blendModeTitle(m) }))

/** Blend and opacity, as they stand below every step and layer. */
export function Mixing({
  blend,
  opacity,
  driven,
  span,
  spanTitle,
  onHelp,
  onBlend,
  onOpacity,
  onSpan,
  onTry,
}: {
  blend: StepUse['blend']
  opacity: number
  driven?: boolean
  span: Span | null
  /** Which tones the span is of. */
  spanTitle?: string
  onHelp: (t: string) => void
  onBlend: (b: BlendMode) => void
  /** A mode is rested on: it is shown in the picture; null: none any more. */
  onTry: (b: BlendMode | null) => void
  onOpacity: (o: number, gesture?: string) => void
  onSpan: (s: Span | null, gesture?: string) => void
}) {
  return (
    <div className={tuningCss.pinned} data-part="pinned">
      <div
        className={tuningCss.control}
        onPointerEnter={() => onHelp('How the result is mixed with what was there before. Rest on a mode to see it in the picture.')}
      >
        <label className={tuningCss.label} htmlFor="blend">
          Blend
        </label>
        <Select
          id="blend"
          w={152}
          data={BLENDS}
          value={blend}
          onChange={(v) => onBlend(v as BlendMode)}
          maxDropdownHeight={360}
          onDropdownClose={() => onTry(null)}
          renderOption={({ option }) => (
            <div className={tuningCss.mode} onPointerEnter={() => onTry(option.value as BlendMode)}>
              {option.label}
            </div>
          )}
          styles={{ input: { height: 26, minHeight: 26 } }}
        />
      </div>
      <NumberControl
        label="Opacity"
        help="How much of the result shows."
        value={opacity * 100}
        min={0}
        max={100}
        step={1}
        fallback={100}
        feel="even"
        suffix=" %"
        {...(driven ? { driven } : {})}
        onHelp={onHelp}
        onChange={(v, gesture) => onOpacity(v / 100, gesture)}
      />
      <SpanEditor {...(spanTitle ? { title: spanTitle } : {})} span={span} onChange={onSpan} onHelp={onHelp} />
    </div>
  )
}

export function isDriven(artwork: Artwork, layer: string, step: string | null, param: string): boolean {
  return artwork.recipes.some((r) => r.controls.some((c) => c.drives.some((d) => d.layer === layer && d.step === step && d.param === param)))
}
