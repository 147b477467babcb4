import { Button } from '@mantine/core'
import { areaMask, locate, locateStep, newMask, type Artwork, type Layer } from '@nimble-quill/core'
import { useAct } from '../../store/store.ts'
import { command } from '../slice.ts'
import classes from './hands.module.css'
import { paintOn } from './slice.ts'
import tuningCss from '../tuning/tuning.module.css'

/** The mask of what is chosen, in its tuning column: begun, painted, let go of. */
export function MaskSection({ artwork, layer: given, step }: { artwork: Artwork; layer: Layer; step: string | null }) {
  const act = useAct()
  const { layer } = locate(artwork.layers as Layer[], given.id)
  const mask = step === null ? layer.mask : locateStep(layer, step).step.mask
  const at = { layer: layer.id, step, part: 'mask' as const }
  const inArea = areaMask(artwork, layer.id)
  const begin = (start: 'full' | 'empty') => {
    act(command({ command: { type: 'set-mask', layer: layer.id, step, mask: newMask(start) } }))
    act(paintOn(at))
  }
  return (
    <div className={tuningCss.control} role="group" aria-label="Mask">
      <span className={tuningCss.label}>Mask</span>
      <span className={classes.line}>
        {mask ? (
          <>
            {mask.live ? (
              <Button
                variant="default"
                size="compact-xs"
                onClick={() => act(command({ command: { type: 'tune-mask', layer: layer.id, step, change: { live: null } } }))}
              >
                By hand instead of live
              </Button>
            ) : (
              <Button variant="default" size="compact-xs" onClick={() => act(paintOn(at))}>
                Paint
              </Button>
            )}
            <Button variant="default" size="compact-xs" onClick={() => act(command({ command: { type: 'set-mask', layer: layer.id, step, mask: null } }))}>
              Take off
            </Button>
          </>
        ) : (
          <>
            <Button variant="default" size="compact-xs" onClick={() => begin('empty')}>
              Paint it in
            </Button>
            <Button variant="default" size="compact-xs" onClick={() => begin('full')}>
              Paint it away
            </Button>
            {inArea && (
              <Button variant="default" size="compact-xs" onClick={() => act(command({ command: { type: 'set-mask', layer: layer.id, step, mask: inArea } }))}>
                From the area
              </Button>
            )}
          </>
        )}
      </span>
    </div>
  )
}
