import type { ParamSpec, Scale } from '@nimble-quill/core'
import type { ComponentType } from 'react'
import type { OnChange } from './widgets/on-change.ts'

/** What the editor of a parameter is given. */
export interface EditorProps<S extends ParamSpec = ParamSpec> {
  spec: S
  value: S['default']
  /** What lengths are measured by. */
  scale: Scale
  /** Set by a control of the recipe. */
  driven: boolean
  /** The value of the parameter that this one is shown beside, if its declaration names one. */
  peer?: unknown
  onHelp: (text: string) => void
  onChange: OnChange<S['default']>
}
export type Editor<S extends ParamSpec> = ComponentType<EditorProps<S>>
