import type { ParamSpec } from '@nimble-quill/core'
import type { ComponentType } from 'react'
import type { OnChange } from './widgets/on-change.ts'
import type { Editor, EditorProps } from './editor.ts'
import { BoundsParamEditor } from './editors/bounds.tsx'
import { ChoiceEditor } from './editors/choice.tsx'
import { ColourEditor } from './editors/colour.tsx'
import { CurveParamEditor } from './editors/curve.tsx'
import { EllipseEditor } from './editors/ellipse.tsx'
import { FlagEditor } from './editors/flag.tsx'
import { GradientParamEditor } from './editors/gradient.tsx'
import { HuesEditor } from './editors/hues.tsx'
import { LengthEditor } from './editors/length.tsx'
import { MixEditor } from './editors/mix.tsx'
import { NumberEditor } from './editors/number.tsx'
import { PaletteParamEditor } from './editors/palette.tsx'
import { PictureEditor } from './editors/picture.tsx'
import { PlaceEditor } from './editors/place.tsx'
import { RoseParamEditor } from './editors/rose.tsx'
import { SeedEditor } from './editors/seed.tsx'

/** The editor of every type of parameter: a new type is a file in `editors` and a line here. */
const editors: { [T in ParamSpec['type']]: Editor<Extract<ParamSpec, { type: T }>> } = {
  length: LengthEditor,
  number: NumberEditor,
  choice: ChoiceEditor,
  flag: FlagEditor,
  seed: SeedEditor,
  colour: ColourEditor,
  curve: CurveParamEditor,
  gradient: GradientParamEditor,
  palette: PaletteParamEditor,
  bounds: BoundsParamEditor,
  hues: HuesEditor,
  rose: RoseParamEditor,
  mix: MixEditor,
  place: PlaceEditor,
  ellipse: EllipseEditor,
  picture: PictureEditor,
}

interface Props extends Omit<EditorProps, 'value' | 'onChange'> {
  value: unknown
  onChange: OnChange<unknown>
}

/** The control of any declared parameter: a new step needs no interface code. */
export function ParamControl(props: Props) {
  const Shown = editors[props.spec.type] as ComponentType<Props>
  return <Shown {...props} />
}
