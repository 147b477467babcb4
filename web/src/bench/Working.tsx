import { allLayers, isStudyPart, locate, mapLayer, stepAt, type Artwork, type Target } from '@nimble-quill/core'
import { useDeferredValue, useEffect, useMemo, useState } from 'react'
import { tellTrouble } from '../parts/tell.tsx'
import { useAct, useApp } from '../store/store.ts'
import { Head } from './Head.tsx'
import { RenderDialog } from './keeping/RenderDialog.tsx'
import { MenuAtPointer } from './menu/menu.tsx'
import { PictureView } from './picture/PictureView.tsx'
import { withMaskShown } from './hands/showing.ts'
import { isThere } from './hands/targets.ts'
import { useLeftStrokes } from './hands/use-left-strokes.ts'
import { WaySheet } from './proofs/WaySheet.tsx'
import { ProofSheet } from './proofs/ProofSheet.tsx'
import { Feed, FeedContext } from './proofs/feed.ts'
import { DropPictures } from './sheet/DropPictures.tsx'
import { ProcessSheet } from './sheet/ProcessSheet.tsx'
import { refusalTold } from './slice.ts'
import { TuningColumn } from './tuning/TuningColumn.tsx'
import { DropperContext, type Dropper } from './tuning/dropper.ts'
import partsCss from '../parts/parts.module.css'
import benchCss from './bench.module.css'

const WHOLE: Target = { type: 'artwork' }

/** The bench once its artwork is there. */
export function Working({ id, tab, artwork, save }: { id: string; tab: string; artwork: Artwork; save: () => Promise<boolean> }) {
  const act = useAct()
  const dragging = useApp((s) => (s.bench.history!.done.at(-1)?.gesture ?? null) !== null)
  const tried = useApp((s) => s.bench.tried)
  const refusal = useApp((s) => s.bench.refusal)
  // proofs may lag behind a drag; the picture may not, nor may anything after a click
  const deferred = useDeferredValue(artwork)
  const late = dragging ? deferred : artwork
  const [feed] = useState(() => new Feed(artwork))
  useEffect(() => feed.set(artwork), [feed, artwork])
  const [hold, setHold] = useState<{ target: Target; note: string } | null>(null)
  const [rendering, setRendering] = useState(false)
  const choice = useApp((s) => s.bench.choice)
  const peeking = useApp((s) => s.bench.peek)
  const sheetOf = useApp((s) => s.bench.proofSheet)
  const peeked = useMemo(
    () =>
      !peeking || !choice || choice.type === 'recipe'
        ? null
        : choice.type === 'step'
          ? peekAt(artwork, choice, peeking)
          : layerPeek(artwork, choice.layer, peeking),
    [artwork, choice, peeking],
  )
  const hands = useApp((s) => s.hands)
  const alone = useApp((s) => s.bench.alone)
  const aloneShown = useMemo(() => (alone ? aloneAt(artwork, alone) : null), [artwork, alone])
  const masked = hands.held === 'paint' && hands.on && isThere(artwork, hands.on) ? hands.on : null
  const shown = useMemo(() => (masked ? withMaskShown(artwork, masked, hands.showing) : artwork), [artwork, masked, hands.showing])
  const part = masked?.part
  const studied: Target | null = masked && part && isStudyPart(part) && hands.showing !== 'picture' ? { type: 'study', layer: masked.layer, part } : null
  useLeftStrokes(id)
  const [taking, setTaking] = useState<{ take: (hex: string) => void } | null>(null)
  const dropper = useMemo<Dropper>(
    () => ({
      asked: taking !== null,
      ask: (take) => setTaking({ take }),
      answer: (hex) => {
        setTaking(null)
        if (hex) taking?.take(hex)
      },
    }),
    [taking],
  )
  useEffect(() => {
    if (!refusal) return
    tellTrouble(refusal)
    act(refusalTold())
  }, [refusal, act])
  return (
    <FeedContext.Provider value={feed}>
      <DropperContext.Provider value={dropper}>
        <MenuAtPointer>
          <div className={partsCss.page}>
            <Head title={artwork.title} sheet={artwork.sheet} stock={artwork.stock} save={save} onRender={setRendering} />
            <main className={benchCss.bench}>
              <div className={benchCss.stage}>
                <PictureView
                  artwork={peeked?.artwork ?? tried ?? shown}
                  tab={tab}
                  free={!hold && !peeked && !tried && !aloneShown}
                  target={hold?.target ?? peeked?.target ?? aloneShown?.target ?? studied ?? WHOLE}
                  note={hold?.note ?? peeked?.note ?? (tried ? 'Trying; click keeps it' : (aloneShown?.note ?? null))}
                />
                <ProcessSheet artwork={late} onHold={setHold} />
              </div>
              <TuningColumn artwork={artwork} />
              {sheetOf && (sheetOf.of === 'values' ? <ProofSheet artwork={artwork} at={sheetOf} /> : <WaySheet artwork={artwork} at={sheetOf} />)}
            </main>
            <DropPictures />
            {rendering && <RenderDialog id={id} artwork={artwork} save={save} onClose={() => setRendering(false)} />}
          </div>
        </MenuAtPointer>
      </DropperContext.Provider>
    </FeedContext.Provider>
  )
}

/** A layer as its own picture, without what it is mixed with. */
function aloneAt(artwork: Artwork, id: string) {
  const layer = [...allLayers(artwork.layers)].find((l) => l.id === id)
  return layer ? { target: { type: 'chain', layer: id, steps: layer.chain.length } as Target, note: `${layer.name}, alone` } : null
}

/** The artwork without a layer, or the layer alone. */
function layerPeek(artwork: Artwork, id: string, what: 'without' | 'alone') {
  const alone = aloneAt(artwork, id)
  if (!alone) return null
  if (what === 'alone') return { artwork, ...alone }
  const { layer } = locate(artwork.layers, id)
  return { artwork: { ...artwork, layers: mapLayer(artwork.layers, id, (l) => ({ ...l, visible: false })) }, target: WHOLE, note: `Without ${layer.name}` }
}

/** An artwork in which steps of a layer are on or off; locked or not, since nothing is changed for good. */
const withSteps = (artwork: Artwork, layer: string, on: (step: string, was: boolean) => boolean): Artwork => ({
  ...artwork,
  layers: mapLayer(artwork.layers, layer, (l) => ({ ...l, chain: l.chain.map((s) => ({ ...s, on: on(s.id, s.on) })) })),
})

/** The artwork without a step, or a step alone on its layer's source. */
function peekAt(artwork: Artwork, { layer: id, step }: { layer: string; step: string }, what: 'without' | 'alone') {
  const { layer } = locate(artwork.layers, id)
  const use = layer.chain.find((s) => s.id === step)
  if (!use) return null
  const { title } = stepAt(use.step, use.version)
  if (what === 'without') return { artwork: withSteps(artwork, id, (s, was) => was && s !== step), target: WHOLE, note: `Without ${title}` }
  return {
    artwork: withSteps(artwork, id, (s, was) => was && s === step),
    target: { type: 'chain', layer: id, steps: layer.chain.length } as Target,
    note: `${title} alone`,
  }
}
