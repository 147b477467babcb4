import { Text } from '@mantine/core'
import { allLayers, locate, type Artwork, type Layer } from '@nimble-quill/core'
import { useEffect, useState } from 'react'
import { useApp } from '../../store/store.ts'
import { AreaColumn } from '../hands/AreaColumn.tsx'
import { FrameColumn } from '../hands/FrameColumn.tsx'
import { InkColumn } from '../hands/InkColumn.tsx'
import { MendColumn } from '../hands/MendColumn.tsx'
import { PaintColumn } from '../hands/PaintColumn.tsx'
import { PlaceColumn } from '../hands/PlaceColumn.tsx'
import { isThere } from '../hands/targets.ts'
import { LayerTuning } from './LayerTuning.tsx'
import { RecipeTuning } from './RecipeTuning.tsx'
import { Measuring, StepTuning } from './StepTuning.tsx'
import tuningCss from './tuning.module.css'

/** Shows what is chosen and lets it be tuned; drawn from the declaration. */
export function TuningColumn({ artwork }: { artwork: Artwork }) {
  const choice = useApp((s) => s.bench.choice)
  const [help, setHelp] = useState('')
  const key = useApp((s) => JSON.stringify([s.hands.held, s.bench.choice]))
  useEffect(() => setHelp(''), [key])
  const painting = useApp((s) => s.hands.held === 'paint' && s.hands.on !== null && isThere(artwork, s.hands.on))
  const placing = useApp((s) => s.hands.held === 'place')
  const mendOn = useApp((s) =>
    s.hands.held === 'mend' && [...allLayers(artwork.layers)].some((l) => l.id === s.hands.mend.layer && l.source.type === 'mend') ? s.hands.mend.layer : null,
  )
  const taking = useApp((s) => s.hands.held === 'area')
  const framing = useApp((s) => s.hands.held === 'frame')
  const inkOn = useApp((s) =>
    s.hands.held === 'ink' && [...allLayers(artwork.layers)].some((l) => l.id === s.hands.ink.layer && l.source.type === 'ink') ? s.hands.ink.layer : null,
  )
  let inside = (
    <Text p={12} c="var(--faint)">
      Choose a proof in the process sheet.
    </Text>
  )
  if (painting) inside = <PaintColumn artwork={artwork} onHelp={setHelp} />
  else if (inkOn) inside = <InkColumn key={inkOn} artwork={artwork} layer={inkOn} onHelp={setHelp} />
  else if (mendOn) inside = <MendColumn key={mendOn} artwork={artwork} layer={mendOn} onHelp={setHelp} />
  else if (taking) inside = <AreaColumn artwork={artwork} onHelp={setHelp} />
  else if (placing) inside = <PlaceColumn artwork={artwork} onHelp={setHelp} />
  else if (framing) inside = <FrameColumn artwork={artwork} onHelp={setHelp} />
  else if (choice?.type === 'recipe') inside = <RecipeTuning artwork={artwork} use={choice.use} onHelp={setHelp} />
  else if (choice) {
    const { layer } = locate(artwork.layers as Layer[], choice.layer)
    const step = choice.type === 'step' ? layer.chain.find((s) => s.id === choice.step) : undefined
    inside = step ? (
      <Measuring key={step.id} layer={layer.id} step={step.id}>
        <StepTuning artwork={artwork} layer={layer} use={step} onHelp={setHelp} />
      </Measuring>
    ) : (
      <LayerTuning key={layer.id} artwork={artwork} layer={layer} onHelp={setHelp} />
    )
  }
  return (
    <aside className={tuningCss.tuning} data-part="tuning" aria-label="Tuning">
      {inside}
      <footer aria-live="polite">{help || 'Rest on a control to read what it does.'}</footer>
    </aside>
  )
}
