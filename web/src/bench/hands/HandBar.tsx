import { Button, Menu, Tooltip } from '@mantine/core'
import { allLayers, sameAddress, type AreaHow, type Command } from '@nimble-quill/core'
import { IconArrowsMove, IconBandage, IconBallpen, IconBrush, IconChevronDown, IconFrame, IconLassoPolygon } from '@tabler/icons-react'
import { useEffect, useState, type ReactNode } from 'react'
import { useKeys } from '../../parts/keys.ts'
import { useStore } from 'react-redux'
import { tell } from '../../parts/tell.tsx'
import { useAct, useApp, type RootState } from '../../store/store.ts'
import { command } from '../slice.ts'
import classes from './hands.module.css'
import { useAddLayer } from '../sheet/use-add-layer.ts'
import { paintOn, putDown, setArea, setBrush, setHands, takeArea, takeFrame, takeInk, takeMend, takePlace } from './slice.ts'
import { isThere, suggested, targetsOf, unseen, type Target } from './targets.ts'

/** Letter keys that lend another hand while they are held. */
const LENT = { c: 'dropper', g: 'pan', l: 'line', space: 'pan' } as const

/** How what is taken goes with the area that is there, one after the other. */
const HOWS: readonly AreaHow[] = ['instead', 'add', 'away', 'share']

/** What Escape closes before it puts the brush down. */
const OPEN = '[role="dialog"], [role="menu"], [role="listbox"], [data-drawing]'

/** Breadths grow and shrink by so much a key stroke. */
const BROADER = 1.15

/** The bar of hands: which is in hand, and what it acts on, in words. */
export function HandBar() {
  const artwork = useApp((s) => s.bench.history!.artwork)
  const act = useAct()
  const store = useStore<RootState>()
  const { held, on, lent } = useApp((s) => s.hands)
  const choice = useApp((s) => s.bench.choice)
  const there = on !== null && isThere(artwork, on)
  const painting = held === 'paint'
  const placing = held === 'place'
  const framing = held === 'frame'
  const inking = held === 'ink'
  const taking = held === 'area'
  const mending = held === 'mend'
  const mendOn = useApp((s) => s.hands.mend.layer)
  const inkOn = useApp((s) => s.hands.ink.layer)
  const { add } = useAddLayer()
  const also = useApp((s) => s.bench.also)
  const [asking, setAsking] = useState(false)

  const take = (target: Target) => {
    if (target.make) act(command({ command: target.make }))
    act(paintOn(target.at))
  }
  const takeUp = () => {
    if (painting) {
      act(putDown())
      return
    }
    const chosen = choice && choice.type !== 'recipe' ? { layer: choice.layer, step: choice.type === 'step' ? choice.step : null } : null
    const at = suggested(artwork, chosen) ?? (there ? on : null)
    if (at) act(paintOn(at))
    // nothing is guessed: it is asked
    else setAsking(true)
  }

  const place = () => act(placing ? putDown() : takePlace())
  useKeys('p', takeUp)
  const inkLayer = inking ? [...allLayers(artwork.layers)].find((l) => l.id === inkOn && l.source.type === 'ink') : undefined
  const ink = () => {
    if (inking) {
      act(putDown())
      return
    }
    const all = [...allLayers(artwork.layers)].filter((l) => l.source.type === 'ink')
    const chosen = all.find((l) => choice && choice.type !== 'recipe' && l.id === choice.layer)
    // where there is none yet, one is begun above what is chosen
    const on = chosen?.id ?? all.at(-1)?.id ?? add('Ink', { type: 'ink', blob: null, colour: '#131211' })
    act(takeInk(on))
  }
  useKeys('k', ink)
  const mendLayer = mending ? [...allLayers(artwork.layers)].find((l) => l.id === mendOn && l.source.type === 'mend') : undefined
  const mend = () => {
    if (mending) {
      act(putDown())
      return
    }
    const all = [...allLayers(artwork.layers)].filter((l) => l.source.type === 'mend')
    const chosen = all.find((l) => choice && choice.type !== 'recipe' && l.id === choice.layer)
    act(takeMend(chosen?.id ?? all.at(-1)?.id ?? add('Mended', { type: 'mend', blob: null, plane: null })))
  }
  useKeys('n', mend)
  const frame = () => act(framing ? putDown() : takeFrame())
  const area = () => act(taking ? putDown() : takeArea())
  useKeys('s', area)
  useKeys('l', place, { enabled: !painting && !mending })
  useKeys('f', frame, { enabled: !painting })
  // heard before what stands open hears it: that is closed by Escape first, and the brush stays in hand
  useEffect(() => {
    if (!painting && !placing && !framing && !inking && !taking && !mending) return
    const escape = (e: KeyboardEvent) => {
      // lists that are closed stay in the page, unseen
      const open = [...document.querySelectorAll(OPEN)].some((x) => x.getClientRects().length > 0)
      if (e.key !== 'Escape' || open || (e.target as HTMLElement).closest('input, textarea')) return
      act(putDown())
    }
    window.addEventListener('keydown', escape, true)
    return () => window.removeEventListener('keydown', escape, true)
  }, [painting, placing, framing, inking, taking, mending, act])
  useKeys('t', () => act(setHands({ doing: store.getState().hands.doing === 'lay' ? 'take' : 'lay' })), { enabled: painting })
  useKeys(
    't',
    () => {
      const { how } = store.getState().hands.area
      act(setArea({ how: HOWS[(HOWS.indexOf(how) + 1) % HOWS.length]! }))
    },
    { enabled: taking },
  )
  const scaled = (by: number) => {
    const { breadth } = store.getState().hands.brush
    act(setBrush({ breadth: { ...breadth, value: Number(Math.min(4000, Math.max(0.2, breadth.value * by)).toPrecision(3)) } }))
  }
  useKeys('comma', () => scaled(1 / BROADER), { enabled: painting || mending })
  useKeys('period', () => scaled(BROADER), { enabled: painting || mending })
  useKeys(
    Object.keys(LENT).join(','),
    (e) => {
      const key = (e.key === ' ' ? 'space' : e.key.toLowerCase()) as keyof typeof LENT
      const { lent: now } = store.getState().hands
      if (e.type === 'keydown' && !e.repeat && !e.ctrlKey && !e.metaKey) act(setHands({ lent: LENT[key] }))
      if (e.type === 'keyup' && now === LENT[key]) act(setHands({ lent: null }))
    },
    { keydown: true, keyup: true, enabled: painting || inking || taking || mending, preventDefault: true },
  )
  useEffect(() => {
    const release = () => store.getState().hands.lent && act(setHands({ lent: null }))
    window.addEventListener('blur', release)
    return () => window.removeEventListener('blur', release)
  }, [act, store])

  useEffect(() => {
    if (inking && !inkLayer) act(putDown())
  }, [inking, inkLayer, act])

  useEffect(() => {
    if (mending && !mendLayer) act(putDown())
  }, [mending, mendLayer, act])

  // what was painted on is gone: the hand goes with it
  useEffect(() => {
    if (!painting || there) return
    act(putDown())
    tell('What was painted on is not there any more; the brush is put down.')
  }, [painting, there, act])

  const hidden = painting && there ? unseen(artwork, on) : null
  const layers = [...allLayers(artwork.layers)].reverse()
  const main = choice && choice.type !== 'recipe' ? layers.find((l) => l.id === choice.layer) : undefined
  const placedName = main && (also.length ? `${also.length + 1} layers` : main.name)
  const still: { says: string; offer: string; command: Command } | null = !main
    ? null
    : main.locked
      ? { says: `${main.name} is locked.`, offer: 'Unlock it', command: { type: 'set-layer', layer: main.id, locked: false } }
      : !main.visible
        ? { says: `${main.name} is hidden.`, offer: 'Show it', command: { type: 'set-layer', layer: main.id, visible: true } }
        : null
  return (
    <div className={classes.bar} role="toolbar" aria-label="Hands">
      <Hand name="Paint" does="by brush on masks, light maps and layers of paint (P)" held={painting} icon={<IconBrush size={16} />} onTake={takeUp} />
      <Hand name="Ink" does="draw pen strokes that can be moved, bent and taken out (K)" held={inking} icon={<IconBallpen size={16} />} onTake={ink} />
      <Hand name="Area" does="say where hands and new steps act (S)" held={taking} icon={<IconLassoPolygon size={16} />} onTake={area} />
      <Hand name="Place" does="move, scale, turn layers (L)" held={placing} icon={<IconArrowsMove size={16} />} onTake={place} />
      <Hand name="Frame" does="crop, straighten, resize the sheet (F)" held={framing} icon={<IconFrame size={16} />} onTake={frame} />
      <Hand name="Mend" does="clone, heal, and let spots be gone (N)" held={mending} icon={<IconBandage size={16} />} onTake={mend} />
      {placing && <span className={classes.on}>{placedName ? `Placing: ${placedName}` : 'Choose a layer in the process sheet'}</span>}
      {placing && still && (
        <span className={classes.notice} role="status">
          {still.says}
          <Button size="compact-xs" variant="default" onClick={() => act(command({ command: still.command }))}>
            {still.offer}
          </Button>
        </span>
      )}
      {!placing && !framing && !inking && !taking && !mending && (
        <Menu position="bottom-start" withinPortal opened={asking} onChange={setAsking}>
          <Menu.Target>
            <Button size="compact-sm" variant="default" rightSection={<IconChevronDown size={13} />} className={classes.on} aria-label="What is painted on">
              {painting && there ? 'On …' : 'Paint on …'}
            </Button>
          </Menu.Target>
          <Menu.Dropdown mah={420} style={{ overflowY: 'auto' }}>
            {layers.map((l) => (
              <div key={l.id}>
                <Menu.Label>{l.name}</Menu.Label>
                {targetsOf(l).map((t) => (
                  <Menu.Item
                    key={`${t.at.step} ${t.at.part}`}
                    onClick={() => take(t)}
                    {...(painting && on && sameAddress(on, t.at) ? { 'aria-current': true, fw: 600 } : {})}
                  >
                    {t.make ? `${t.name}, new` : t.name}
                  </Menu.Item>
                ))}
              </div>
            ))}
          </Menu.Dropdown>
        </Menu>
      )}
      {hidden && (
        <span className={classes.notice} role="status">
          {hidden.says}
          <Button size="compact-xs" variant="default" onClick={() => act(command({ command: hidden.command }))}>
            {hidden.offer}
          </Button>
        </span>
      )}
      {(painting || mending) && lent && (
        <span className={classes.on}>
          {{ pan: 'Moving the view', dropper: mending ? 'Where to take from' : 'Picking a colour', line: 'A straight line' }[lent]}
        </span>
      )}
    </div>
  )
}

/** One hand of the bar; pressed while it is in hand. */
function Hand({ name, does, held, icon, onTake }: { name: string; does: string; held: boolean; icon: ReactNode; onTake: () => void }) {
  return (
    <Tooltip label={`${name}: ${does}`}>
      <Button
        size="compact-sm"
        variant={held ? 'filled' : 'subtle'}
        color={held ? 'petrol' : 'gray'}
        aria-pressed={held}
        leftSection={icon}
        onClick={onTake}
        px={7}
        styles={{ section: { marginInlineEnd: 5 } }}
      >
        {name}
      </Button>
    </Tooltip>
  )
}
