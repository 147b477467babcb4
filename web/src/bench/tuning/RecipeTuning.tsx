import { Button, Text } from '@mantine/core'
import { allLayers, stepAt, type Artwork, type Control, type ControlValue, type ParamSpec } from '@nimble-quill/core'
import { memo } from 'react'
import { useAct } from '../../store/store.ts'
import { usePaintOut } from '../hands/use-paint-out.ts'
import { command } from '../slice.ts'
import { ParamControl } from './ParamControl.tsx'
import { RecipeControl } from './RecipeControl.tsx'
import tuningCss from './tuning.module.css'

const RecipeParam = memo(function RecipeParam({
  use,
  control,
  value,
  spec,
  reference,
  ppi,
  onHelp,
}: {
  use: string
  control: Control
  value: ControlValue
  /** Of the parameter whose type the control has, where it is not a number or a choice of its own. */
  spec: ParamSpec | null
  reference: number
  ppi: number
  onHelp: (t: string) => void
}) {
  const act = useAct()
  const change = (v: unknown, gesture?: string) =>
    act(
      command({
        command: { type: 'set-control', use, control: control.id, value: v as ControlValue },
        ...(gesture ? { gesture: `${use}.${control.id}.${gesture}` } : {}),
      }),
    )
  if (control.kind.type !== 'value') return <RecipeControl control={control} value={value as number | string} onHelp={onHelp} onChange={change} />
  if (!spec) return null
  const named = { ...spec, title: control.title, help: control.help }
  return <ParamControl spec={named} value={value} scale={{ reference, ppi }} driven={false} onHelp={onHelp} onChange={change} />
})

/** The parameter that a control's first drive names. */
function specOf(artwork: Artwork, control: Control): ParamSpec | null {
  for (const layer of allLayers(artwork.layers)) {
    for (const use of layer.chain) {
      const drive = control.drives.find((d) => d.layer === layer.id && d.step === use.id)
      if (drive) return stepAt(use.step, use.version).params[drive.param] ?? null
    }
  }
  return null
}

const isHere = (artwork: Artwork, layer: string) => [...allLayers(artwork.layers)].some((l) => l.id === layer)

export function RecipeTuning({ artwork, use, onHelp }: { artwork: Artwork; use: string; onHelp: (t: string) => void }) {
  const recipe = artwork.recipes.find((r) => r.id === use)
  const paintOut = usePaintOut()
  const retouch = recipe?.retouch && isHere(artwork, recipe.retouch.above) ? recipe.retouch : null
  if (!recipe) return null
  return (
    <>
      <header>
        <h2>{recipe.title}</h2>
        <Text size="xs" c="var(--faint)">
          The recipe’s own controls. Every step stays open in the process sheet.
        </Text>
      </header>
      <div className={tuningCss.controls} data-part="controls">
        {retouch && (
          <Button
            variant="default"
            onClick={() => void paintOut(retouch.above)}
            onPointerEnter={() =>
              onHelp('A layer of paint above the lines and below the paper, in the white of the sheet: what is painted there keeps the paper’s tooth.')
            }
          >
            Paint it out
          </Button>
        )}
        {recipe.controls.map((c) => (
          <RecipeParam
            key={c.id}
            use={use}
            control={c}
            value={recipe.values[c.id] ?? c.default}
            spec={c.kind.type === 'value' ? specOf(artwork, c) : null}
            reference={artwork.reference}
            ppi={artwork.sheet.ppi}
            onHelp={onHelp}
          />
        ))}
      </div>
    </>
  )
}
