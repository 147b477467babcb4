import {
  allLayers,
  freshId,
  instantiate,
  newStep,
  withInputs,
  groupInArea,
  withinArea,
  perform,
  recipes,
  stepGroups,
  stepGroupTitles,
  steps,
  type Artwork,
  type Command,
  loadRecipe,
  takingOf,
  type Suitability,
  type Taking,
  type Recipe,
} from '@nimble-quill/core'
import { useEffect, useMemo, useRef, useState, type RefObject } from 'react'
import { useEngine } from '../engine-context.ts'
import { useOwnRecipesQuery } from '../../store/api.ts'
import { useAct, useApp } from '../../store/store.ts'
import { ProofPicture, proofSize } from './Proof.tsx'
import { useFeed } from './feed.ts'
import { choose, command, openPicker, tryOut, type Gap } from '../slice.ts'
import proofsCss from './proofs.module.css'
import partsCss from '../../parts/parts.module.css'

interface Offer {
  id: string
  group: string
  title: string
  help: string
  command: Command
  /** What its picture shows: a step that does nothing at its defaults is shown at telling values. */
  shown: Command
  /** The artwork as it would be; found when it is first asked for, as most offers are never looked at. */
  made: () => Artwork
  /** Of a recipe: it says what it needs. */
  recipe?: Recipe
}

/** Every recipe and step, with what each would make of this artwork. */
function offersFor(artwork: Artwork, gap: Gap, own: readonly Recipe[]): Offer[] {
  const base = [...allLayers(artwork.layers)].find((l) => l.source.type === 'photo')
  const fresh = artwork.layers.length === 1 && artwork.layers[0]!.chain.length === 0
  // in an area it is laid over what is there, and shows in it alone
  const alone = fresh && !artwork.area
  const offers: Omit<Offer, 'made'>[] = []
  if (base) {
    for (const r of [...own, ...recipes]) {
      const { layers, use, colourways } = instantiate(r, base.source)
      const apply: Command = {
        type: 'apply-recipe',
        layers,
        use,
        colourways,
        replace: alone,
        ...(alone ? {} : { group: freshId(), mask: groupInArea(artwork) }),
      }
      const mine = own.includes(r)
      offers.push({
        id: `${mine ? 'own' : 'recipe'}:${r.id}`,
        group: mine ? 'Recipes of your own' : 'Recipes',
        title: r.title,
        help: r.help,
        command: apply,
        shown: apply,
        recipe: r,
      })
    }
  }
  for (const group of stepGroups) {
    for (const s of steps.filter((x) => x.group === group)) {
      offers.push({
        id: s.id,
        group: stepGroupTitles[group],
        title: s.title,
        help: s.help,
        command: { type: 'add-step', layer: gap.layer, index: gap.index, step: withinArea(artwork, gap.layer, withInputs(artwork, gap.layer, newStep(s.id))) },
        shown: {
          type: 'add-step',
          layer: gap.layer,
          index: gap.index,
          step: withinArea(artwork, gap.layer, withInputs(artwork, gap.layer, newStep(s.id, s.sample))),
        },
      })
    }
  }
  return offers.map((o) => {
    let made: Artwork | null = null
    return { ...o, made: () => (made ??= perform(artwork, o.shown).artwork) }
  })
}

/** The account's own recipes; those that cannot be read any more are left out. */
function useOwn(): readonly Recipe[] {
  const { data } = useOwnRecipesQuery()
  return useMemo(
    () =>
      (data ?? []).flatMap(({ recipe }) => {
        try {
          return [loadRecipe(recipe)]
        } catch {
          return []
        }
      }),
    [data],
  )
}

/** What the photo of the artwork is like, once it is known; what cannot be measured is not spoken of. */
function useSuitability(artwork: Artwork): Suitability | null {
  const engine = useEngine()
  const feed = useFeed()
  const [found, setFound] = useState<{ of: string; is: Suitability | null } | null>(null)
  const photo = [...allLayers(artwork.layers)].find((l) => l.source.type === 'photo')?.source
  const key = photo?.type === 'photo' ? `${photo.asset} ${JSON.stringify(photo.shown ?? null)} ${artwork.sheet.ppi}` : ''
  useEffect(() => {
    let here = true
    if (key) {
      // the engine may not have the artwork yet
      engine.setArtwork(feed.artwork)
      engine.suits().then(
        (is) => here && setFound({ of: key, is }),
        () => undefined,
      )
    }
    return () => {
      here = false
    }
  }, [engine, feed, key])
  // of another photo nothing is said
  return found?.of === key ? found.is : null
}

/** A recipe's help, and how it will take on this photo. */
const told = (help: string, taking: Taking | null) => (taking ? [help, `On this photo: ${taking.says}.`, ...taking.helps].join('\n') : help)

/** Every technique on this photo, in small live pictures. Resting on one tries it in the large picture. */
export function Picker({ artwork, gap, search, takeFirst }: { artwork: Artwork; gap: Gap; search: string; takeFirst: RefObject<() => void> }) {
  const act = useAct()
  const size = proofSize(
    artwork.sheet,
    64,
    useApp((s) => s.prefs.proofs),
  )
  const rest = useRef<ReturnType<typeof setTimeout> | null>(null)
  const own = useOwn()
  const photo = useSuitability(artwork)
  const offers = useMemo(() => offersFor(artwork, gap, own), [artwork, gap, own])
  const wanted = search.trim().toLowerCase()
  const found = offers.filter((o) => !wanted || `${o.title} ${o.group} ${o.help}`.toLowerCase().includes(wanted))
  const groups = [...new Set(found.map((o) => o.group))]

  useEffect(() => () => void (rest.current && clearTimeout(rest.current)), [])
  useEffect(() => {
    const escape = (e: KeyboardEvent) => e.key === 'Escape' && act(openPicker(null))
    window.addEventListener('keydown', escape)
    return () => window.removeEventListener('keydown', escape)
  }, [act])

  const tryIt = (o: Offer | null) => {
    if (rest.current) clearTimeout(rest.current)
    rest.current = setTimeout(() => act(tryOut(o?.shown ?? null)), o ? 220 : 60)
  }
  const keep = (o: Offer) => {
    if (rest.current) clearTimeout(rest.current)
    act(openPicker(null))
    act(command({ command: o.command }))
    if (o.command.type === 'add-step') act(choose({ type: 'step', layer: gap.layer, step: o.command.step.id }))
    if (o.command.type === 'apply-recipe') act(choose({ type: 'recipe', use: o.command.use.id }))
  }

  takeFirst.current = () => found[0] && keep(found[0])

  return (
    <div className={proofsCss.picker} data-part="picker" role="dialog" aria-label="Picker">
      <div className={proofsCss.finds}>
        {groups.map((g) => (
          <section key={g} aria-label={g}>
            <h3>{g}</h3>
            <div className={proofsCss.group}>
              {found
                .filter((o) => o.group === g)
                .map((o) => ({ o, taking: photo && o.recipe ? takingOf(o.recipe, photo) : null }))
                .map(({ o, taking }) => (
                  <button
                    key={o.id}
                    className={proofsCss.proof}
                    data-part="proof"
                    // all as broad, so that they stand in columns
                    style={{ width: Math.max(118, size.w + 18) }}
                    title={told(o.help, taking)}
                    onClick={() => keep(o)}
                    onPointerEnter={() => tryIt(o)}
                    onPointerLeave={() => tryIt(null)}
                    onFocus={() => tryIt(o)}
                    onBlur={() => tryIt(null)}
                  >
                    <ProofPicture candidate={o.made} target={{ type: 'artwork' }} {...size} label={`${o.title} on this photo`} whenSeen />
                    <span className={proofsCss.cap} data-part="cap">
                      {o.title}
                    </span>
                    {taking && (
                      <span className={proofsCss.taking} data-part="taking" data-holds={taking.helps.length === 0 || undefined}>
                        {taking.says}
                      </span>
                    )}
                  </button>
                ))}
            </div>
          </section>
        ))}
        {found.length === 0 && <p className={partsCss.faint}>Nothing is called that. Try another word.</p>}
      </div>
    </div>
  )
}
