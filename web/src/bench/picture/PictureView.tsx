import { useElementSize, useMergedRef } from '@mantine/hooks'
import { allLayers, intersect, movedBy, type Artwork, type Region, type Target } from '@nimble-quill/core'
import { useCallback, useEffect, useLayoutEffect, useMemo, useRef, useState, type PointerEvent } from 'react'
import { useKeys } from '../../parts/keys.ts'
import { setPrefs } from '../../store/prefs.ts'
import { useAct, useApp } from '../../store/store.ts'
import { useEngine } from '../engine-context.ts'
import { BrushPointer, type PointerHandle } from '../hands/BrushPointer.tsx'
import { breadthIn } from '../hands/pen.ts'
import { usePaint } from '../hands/use-paint.ts'
import { roundSheet } from '../hands/use-framing.ts'
import { inList, usePlacing } from '../hands/use-placing.ts'
import { useMenu } from '../menu/menu.tsx'
import { useDropper } from '../tuning/dropper.ts'
import { type Stage, stageText, type Wipe, PictureTools } from './PictureTools.tsx'
import { DetailPins } from './DetailPins.tsx'
import { AreaLine } from './AreaLine.tsx'
import { AreaSurface } from './AreaSurface.tsx'
import { InkSurface } from './InkSurface.tsx'
import { LookSpot } from './LookSpot.tsx'
import { MendMarks } from './MendMarks.tsx'
import { PlaceHandles } from './PlaceHandles.tsx'
import { FrameHandles } from './FrameHandles.tsx'
import { PlacementHandles } from './PlacementHandles.tsx'
import { Guides, Rulers } from './Rulers.tsx'
import { AGAINST_PHOTO, type Against } from './CompareMenu.tsx'
import { WipeLine } from './WipeLine.tsx'
import { arrow, type Ground } from './ground.ts'
import { Mosaics } from './mosaic.ts'
import { useViewGestures } from './use-view-gestures.ts'
import { fitted, leastScale, levelFor, lifted, origin, panned, staying, turnedOn, turning, visible, zoomedAt, type Viewport } from './viewport.ts'
import pictureCss from './picture.module.css'

/** Ways of comparing, one after the other. */
const NEXT: Record<Wipe, Wipe> = { off: 'upright', upright: 'level', level: 'beside', beside: 'off' }

/** How long the hand rests before the view settles, milliseconds. */
const REST = 300
/** So many degrees from upright two fingers leave the view, and it stands upright. */
const UPRIGHT = 5

/** One press of an arrow key, device pixels. */
const KEY_PAN = 80

type Handler = (e: PointerEvent) => void
/** One handler that calls two, the first where there is one. */
const all =
  (first: Handler | undefined, second: Handler): Handler =>
  (e) => {
    first?.(e)
    second(e)
  }

/** Whether two artworks show the same: all but their areas is the very same. */
const samePicture = (a: Artwork, b: Artwork): boolean =>
  a === b || (Object.keys({ ...a, ...b }) as (keyof Artwork)[]).every((k) => k === 'area' || k === 'areas' || a[k] === b[k])

interface Props {
  /** This tab's name. */
  tab: string
  /** Whether the artwork itself is shown, so that it can be painted on. */
  free: boolean
  artwork: Artwork
  /** What of the artwork is shown. */
  target: Target
  /** Shown over the picture: which proof is held, what is tried. */
  note?: string | null
}

/** The large picture: a canvas fed by the engine worker, with zoom, pan and comparison with the photo. */
export function PictureView({ artwork, target, note, tab, free }: Props) {
  const engine = useEngine()
  const act = useAct()
  const surround = useApp((s) => s.prefs.surround)
  const proofs = useApp((s) => s.prefs.proofs)
  const { ref: sizeRef, width, height } = useElementSize<HTMLDivElement>()
  const easel = useRef<HTMLDivElement>(null)
  const canvas = useRef<HTMLCanvasElement>(null)
  const ratio = window.devicePixelRatio || 1
  const { values, mirrored, turned, rulers } = useApp((s) => s.prefs)
  const dropper = useDropper()
  const hands = useApp((s) => s.hands)
  const screen = { w: Math.round(width * ratio), h: Math.round(height * ratio) }
  // the view's own upright plane; only what is drawn and pointed at is turned
  const turn = turning(screen, turned, mirrored)
  const { size } = turn
  const framing = hands.held === 'frame'
  // while the frame is in hand, what lies outside is seen too; the view stays as it is while it is dragged
  const [dragging, setDragging] = useState(false)
  const round = useRef<Region | null>(null)
  if (!framing) round.current = null
  else if (!round.current || !dragging) round.current = roundSheet(artwork)
  const paper = artwork.sheet as Region
  const sheet = round.current ?? paper
  const [view, setView] = useState<Viewport | null>(null)
  const [stage, setStage] = useState<Stage>({ stage: 'waiting', level: 0, settled: 0 })
  // counts when what is shown is to be asked for anew, though nothing of it was changed
  const [anew, setAnew] = useState(0)
  const [trouble, setTrouble] = useState<string | null>(null)
  const [held, setHeld] = useState(false)
  const [wipe, setWipe] = useState<Wipe>('off')
  const [wipeAt, setWipeAt] = useState(0.5)
  const [chosen, setAgainst] = useState<Against>(AGAINST_PHOTO)
  // a row that is gone is not compared with
  const { target: row } = chosen
  const against = row.type === 'sheet' && ![...allLayers(artwork.layers)].some((l) => l.id === row.layer) ? AGAINST_PHOTO : chosen
  // side by side, each has half of the window
  const beside = wipe === 'beside' && !held
  const pane = beside ? { w: Math.floor(size.w / 2), h: size.h } : size
  const main = useRef(new Mosaics())
  const photo = useRef(new Mosaics())
  const comparedWith = useRef(against)
  const frame = useRef(0)

  const room = beside ? pane : turn.room(sheet)
  const now = !view || view.fit ? fitted(sheet, room) : view
  const current = useRef(now)
  current.current = now
  const ready = size.w > 2 * 18 && size.h > 2 * 18
  const at = origin(now, pane)
  const showPhoto = held || wipe !== 'off'
  const region = visible(now, sheet, pane)
  const level = levelFor(now.scale)
  const targetKey = JSON.stringify(target)
  // an area is no part of the picture: taking one asks for nothing anew
  const pictured = useRef(artwork)
  if (!samePicture(pictured.current, artwork)) pictured.current = artwork
  // one thing asked for: another artwork, target or part is another, from the moment it is drawn
  const asked = useMemo(
    () => ({ artwork: pictured.current, targetKey, level, region }),
    // eslint-disable-next-line react-hooks/exhaustive-deps
    [pictured.current, targetKey, level, region.x, region.y, region.w, region.h, anew],
  )
  // the best resampling takes longer than a frame: it waits until the hand rests
  const calm = stage.settled === 1 && stage.asked === asked

  const paint = useCallback(() => {
    cancelAnimationFrame(frame.current)
    frame.current = requestAnimationFrame(() => {
      const element = canvas.current
      if (!element) return
      if (element.width !== screen.w || element.height !== screen.h) {
        element.width = screen.w
        element.height = screen.h
      }
      const context = element.getContext('2d')!
      context.setTransform(1, 0, 0, 1, 0, 0)
      context.clearRect(0, 0, screen.w, screen.h)
      context.setTransform(...turn.matrix)
      const x = at.x + sheet.x * now.scale
      const y = at.y + sheet.y * now.scale
      const w = sheet.w * now.scale
      const h = sheet.h * now.scale
      const laid = (pictures: Mosaics, cx: number, cy: number, cw: number, ch: number) => {
        context.save()
        context.beginPath()
        context.rect(cx, cy, cw, ch)
        context.clip()
        context.fillStyle = '#fff'
        // where the sheet is clear it is white; beyond it there is nothing
        const white = { x: at.x + paper.x * now.scale, y: at.y + paper.y * now.scale, w: paper.w * now.scale, h: paper.h * now.scale }
        context.fillRect(white.x, white.y, white.w, white.h)
        const blank = (found: Region) => {
          // whole pixels of the screen: those at its rim are mixed as ever
          const [left, top] = [Math.ceil(found.x), Math.ceil(found.y)]
          const r = { x: left, y: top, w: Math.max(0, Math.floor(found.x + found.w) - left), h: Math.max(0, Math.floor(found.y + found.h) - top) }
          context.clearRect(r.x, r.y, r.w, r.h)
          const part = intersect(r, white)
          context.fillRect(part.x, part.y, part.w, part.h)
        }
        pictures.draw(context, now.scale, at, calm ? 'high' : 'low', turn.square, blank)
        context.restore()
      }
      if (beside) {
        for (const [i, pictures] of [photo.current, main.current].entries()) {
          context.save()
          context.beginPath()
          context.rect(i * pane.w, 0, pane.w, pane.h)
          context.clip()
          context.translate(i * pane.w, 0)
          laid(pictures, x, y, w, h)
          context.restore()
        }
        return
      }
      laid(held ? photo.current : main.current, x, y, w, h)
      if (!held && wipe === 'upright') laid(photo.current, x, y, Math.round(w * wipeAt), h)
      if (!held && wipe === 'level') laid(photo.current, x, y, w, Math.round(h * wipeAt))
    })
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [screen.w, screen.h, turned, mirrored, at.x, at.y, now.scale, sheet, paper, held, wipe, wipeAt, calm, pane.w, pane.h])
  const repaint = useRef(paint)
  repaint.current = paint

  useLayoutEffect(paint, [paint])

  // ask for what is in sight
  const shown = useRef<{ artwork: Artwork; targetKey: string; anew: number } | null>(null)
  // how much coarser than the view the picture under the hand is
  const lift = useRef(1)
  const lags = useRef<[number, number]>([50, 50])
  // the last change came by the brush, under which the picture is right already
  const byBrush = useRef(false)
  const pen = useRef<ReturnType<typeof usePaint> | null>(null)
  useEffect(() => {
    if (!ready || region.w <= 0) return
    engine.setArtwork(artwork)
    const other = shown.current?.targetKey !== targetKey
    const kept = byBrush.current && !other
    byBrush.current = false
    const changed = !kept && (shown.current?.artwork !== asked.artwork || other || shown.current.anew !== anew)
    shown.current = { artwork: asked.artwork, targetKey, anew }
    if (changed) main.current.outdate()
    setStage({ stage: 'waiting', level, settled: 0, asked })
    let resting: ReturnType<typeof setTimeout> | null = null
    const listener = {
      onTile: (m: { level: number; region: Region; pixels: ArrayBuffer }) => {
        main.current.put(m.level, region, m.region, m.pixels)
        repaint.current()
      },
      onLevel: (m: { level: number; ms: number; rough: boolean }) => {
        const last = m.level === level
        if (!last) {
          lags.current = [m.ms, lags.current[0]]
          lift.current = lifted(lift.current, lags.current)
        }
        setStage({ stage: last && !m.rough ? 'fine' : 'coarse', level: m.level, settled: last && level === 0 ? 1 : 0, asked })
        setTrouble(null)
        if (last && level === 0) pen.current?.prepare(artwork)
        if (last && level > 0)
          resting = setTimeout(() => {
            // small pictures may have told of another one meanwhile
            engine.setArtwork(artwork)
            engine.settle('main', target, region, level, listener, false, framing)
          }, REST)
      },
      onSettled: (settled: number) => {
        setStage({ stage: 'fine', level, settled, asked })
        if (settled === 1) pen.current?.prepare(artwork)
      },
      onPlanning: (title: string, share: number) => setStage((s) => (s.asked === asked ? { ...s, planning: { title, share } } : s)),
      onFail: (_: string, message: string) => setTrouble(message),
    }
    if (kept && level > 0) {
      setStage({ stage: 'fine', level, settled: 0, asked })
      engine.settle('main', target, region, level, listener, true, framing)
    } else engine.view('main', target, region, changed ? [level + lift.current, level] : [level], listener, framing)
    return () => {
      if (resting) clearTimeout(resting)
    }
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [engine, asked, ready])

  useEffect(() => {
    if (!ready || !showPhoto || region.w <= 0) return
    // of another picture nothing stays
    if (comparedWith.current !== against) photo.current = new Mosaics()
    else photo.current.outdate()
    comparedWith.current = against
    engine.view(
      'photo',
      against.target,
      region,
      [level],
      {
        onTile: (m) => {
          photo.current.put(m.level, region, m.region, m.pixels)
          repaint.current()
        },
        onLevel: () => undefined,
        onFail: (_, message) => setTrouble(message),
      },
      false,
      against.artwork,
    )
    // a row of the artwork itself changes with it
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [engine, showPhoto, ready, level, region.x, region.y, region.w, region.h, against, against.target.type === 'sheet' ? artwork : null])

  const least = leastScale(sheet, room)
  const zoomTo = useCallback(
    (scale: number, px = pane.w / 2, py = pane.h / 2) => setView((v) => zoomedAt(v && !v.fit ? v : current.current, pane, px, py, scale, least)),
    // eslint-disable-next-line react-hooks/exhaustive-deps
    [pane.w, pane.h, least],
  )

  const pan = (dx: number, dy: number) => setView((v) => panned(v && !v.fit ? v : current.current, sheet, dx, dy))

  /** Where on the view's plane a pointer is. */
  const pointed = useRef<(e: { clientX: number; clientY: number }) => { x: number; y: number }>(() => ({ x: 0, y: 0 }))
  pointed.current = (e) => {
    const box = easel.current!.getBoundingClientRect()
    const p = turn.back((e.clientX - box.left) * ratio, (e.clientY - box.top) * ratio)
    return beside && p.x >= pane.w ? { x: p.x - pane.w, y: p.y } : p
  }

  const paintView = useMemo(
    () => ({ target, region, level }),
    // eslint-disable-next-line react-hooks/exhaustive-deps
    [targetKey, level, region.x, region.y, region.w, region.h],
  )
  const brush = usePaint({
    engine,
    view: paintView,
    free: free && !held && wipe === 'off' && !dropper.asked,
    place: (e) => ground.under(e),
    onTile: (m) => {
      main.current.patch(m.level, region, m.region, m.pixels)
      repaint.current()
    },
    onPainted: (kept) => {
      if (kept) byBrush.current = true
      else setAnew((n) => n + 1)
    },
    tab,
  })
  pen.current = brush
  // taken up while the picture is settled already
  useEffect(() => {
    if (brush.active && calm) brush.prepare(artwork)
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [brush.active, brush.prepare, calm, artwork])
  const inkOn = hands.held === 'ink' && [...allLayers(artwork.layers)].some((l) => l.id === hands.ink.layer && l.source.type === 'ink') ? hands.ink.layer : null
  const pointer = useRef<PointerHandle>(null)
  const marks = useRef<PointerHandle>(null)

  const turnTo = useRef(turned)
  turnTo.current = turned
  const gestures = useViewGestures({
    easel,
    point: (e) => pointed.current(e),
    pans: !dropper.asked && (!brush.active || hands.lent === 'pan'),
    palm: brush.palm,
    onPan: pan,
    onZoom: (factor, { x, y }) => zoomTo(current.current.scale * factor, x, y),
    onTurn: (by, about) => {
      const was = turnTo.current
      const next = (was + by + 360) % 360
      turnTo.current = next
      act(setPrefs({ turned: next }))
      // what lies under the fingers stays there
      const box = easel.current!.getBoundingClientRect()
      const { dx, dy } = staying(
        turning(screen, was, mirrored),
        turning(screen, next, mirrored),
        (about.clientX - box.left) * ratio,
        (about.clientY - box.top) * ratio,
      )
      pan(dx, dy)
    },
    onLeft: () => {
      // nearly upright after two fingers is meant upright
      const near = Math.round(turned / 90) * 90
      if (turned % 90 !== 0 && Math.abs(turned - near) < UPRIGHT) act(setPrefs({ turned: near % 360 }))
    },
  })
  const down = (e: PointerEvent) => {
    if (dropper.asked) dropper.answer(colourUnder(e))
    else brush.down(e)
  }
  const move = (e: PointerEvent) => {
    if (brush.active) {
      // the brush's outline stands where the browser expects the pen to be when it is seen; nothing is painted there
      const ahead = pointed.current(e.nativeEvent.getPredictedEvents?.().at(0) ?? e)
      const seen = hands.lent === 'pan' ? null : { x: css(ahead.x), y: css(ahead.y) }
      pointer.current?.at(seen)
      marks.current?.at(seen)
    }
    brush.move(e)
  }
  const up = (e: PointerEvent) => {
    if (e.type === 'pointercancel') brush.give()
    else brush.up(e)
  }
  /** The colour the canvas shows under a pointer, #rrggbb; null where there is no picture. */
  const colourUnder = (e: { clientX: number; clientY: number }): string | null => {
    const box = easel.current!.getBoundingClientRect()
    const [r, g, b, a] = canvas
      .current!.getContext('2d')!
      .getImageData(Math.floor((e.clientX - box.left) * ratio), Math.floor((e.clientY - box.top) * ratio), 1, 1).data
    return a ? `#${[r!, g!, b!].map((v) => v.toString(16).padStart(2, '0')).join('')}` : null
  }

  const whole = useCallback(() => setView(null), [])
  const nextWipe = useCallback(() => setWipe((x) => NEXT[x]), [])
  useKeys('0', whole)
  useKeys('1', () => zoomTo(1))
  useKeys('equal,plus,shift+equal', () => zoomTo(current.current.scale * 1.5), { preventDefault: true })
  useKeys('minus', () => zoomTo(current.current.scale / 1.5))
  useKeys('o', (e) => setHeld(e.type === 'keydown'), { keydown: true, keyup: true })
  useKeys('w', nextWipe)
  useKeys('v', () => act(setPrefs({ values: !values })))
  useKeys('m', () => act(setPrefs({ mirrored: !mirrored })))
  useKeys('r', () => act(setPrefs({ turned: turnedOn(turned, false) })))
  useKeys('shift+r', () => act(setPrefs({ turned: turnedOn(turned, true) })))
  useKeys('escape', () => dropper.asked && dropper.answer(null))
  useEffect(() => {
    // a key let go outside the window is not told
    const release = () => setHeld(false)
    window.addEventListener('blur', release)
    return () => window.removeEventListener('blur', release)
  }, [])

  const placing = hands.held === 'place'
  const { placing: placed, put: putPlaced } = usePlacing(artwork)
  const css = (v: number) => v / ratio
  const ground: Ground = {
    scale: css(now.scale),
    x: css(at.x),
    y: css(at.y),
    size: { w: css(size.w), h: css(size.h) },
    under: (e) => {
      const p = pointed.current(e)
      return { x: (p.x - at.x) / now.scale, y: (p.y - at.y) / now.scale }
    },
  }

  const menu = useMenu()
  const refs = useMergedRef(sizeRef, easel)
  return (
    <>
      <PictureTools
        zoom={now.scale}
        held={held}
        wipe={wipe}
        onWhole={whole}
        onZoom={zoomTo}
        onHold={setHeld}
        onWipe={nextWipe}
        against={against}
        onAgainst={setAgainst}
      />
      <div
        className={pictureCss.easel}
        data-part="easel"
        ref={refs}
        data-surround={surround}
        role="group"
        aria-label={`The artwork “${artwork.title}”`}
        data-stage={trouble ? 'trouble' : stage.stage}
        data-settled={calm || undefined}
        data-values={values || undefined}
        data-picking={dropper.asked || undefined}
        tabIndex={0}
        onKeyDown={(e) => {
          const by = arrow(e.key)
          if (!by || e.target !== e.currentTarget) return
          if (placing && placed && free) {
            e.preventDefault()
            const far = e.shiftKey ? 10 : 1
            const [p, q] = [inList(placed, { x: 0, y: 0 }), inList(placed, { x: by.x * far, y: by.y * far })]
            putPlaced(movedBy(placed.matrix, q.x - p.x, q.y - p.y), 'Move', 'keys-all')
          } else pan(-KEY_PAN * by.x, -KEY_PAN * by.y)
        }}
        {...gestures}
        onPointerDown={all(gestures['onPointerDown'], down)}
        onPointerMove={all(gestures['onPointerMove'], move)}
        onPointerUp={all(gestures['onPointerUp'], up)}
        onPointerCancel={all(gestures['onPointerCancel'], up)}
        // a field typed in before would keep the keys of the brush to itself
        onPointerEnter={() =>
          brush.active && (document.activeElement as HTMLElement | null)?.matches('input, textarea, button') && (document.activeElement as HTMLElement).blur()
        }
        onPointerLeave={() => pointer.current?.at(null)}
        onContextMenu={(e) =>
          menu(e, 'Picture', [
            { label: 'Whole sheet', keys: '0', run: whole },
            { label: '100 %', keys: '1', run: () => zoomTo(1) },
            'line',
            { label: 'Compare', keys: 'W', on: wipe !== 'off', run: nextWipe },
            { label: 'Values only', keys: 'V', on: values, run: () => act(setPrefs({ values: !values })) },
            { label: 'Mirrored', keys: 'M', on: mirrored, run: () => act(setPrefs({ mirrored: !mirrored })) },
            { label: 'Turn by a quarter', keys: 'R', run: () => act(setPrefs({ turned: turnedOn(turned, false) })) },
          ])
        }
        data-painting={brush.active ? (hands.lent ?? 'paint') : undefined}
        data-ready={brush.ready || undefined}
      >
        <canvas ref={canvas} role="img" aria-label={`The picture of “${artwork.title}”`} data-scale={now.scale} data-x={at.x} data-y={at.y} />
        {placing && rulers && turned === 0 && !mirrored && <Rulers artwork={artwork} ground={ground} width={width} height={height} />}
        <div className={pictureCss.over} style={{ width: css(size.w), height: css(size.h), transform: turn.css(ratio) }}>
          {!dropper.asked && !brush.active && !placing && !framing && !beside && hands.held !== 'area' && !inkOn && (
            <PlaceHandles artwork={artwork} ground={ground} />
          )}
          {placing && !held && !beside && <Guides artwork={artwork} ground={ground} />}
          {placing && free && !held && !beside && <PlacementHandles artwork={artwork} ground={ground} />}
          {brush.active && (
            <BrushPointer
              ref={pointer}
              brush={hands.brush}
              radius={css((breadthIn(hands.brush.breadth, artwork.sheet.ppi) / 2) * now.scale)}
              doing={hands.doing}
              symmetry={hands.symmetry}
              scale={css(now.scale)}
              origin={{ x: css(at.x), y: css(at.y) }}
              line={brush.line}
            />
          )}
          {brush.active && hands.held === 'mend' && (
            <MendMarks
              ref={marks}
              ground={ground}
              source={hands.mend.way === 'spot' ? null : hands.mend.source}
              offset={hands.mend.travels ? hands.mend.offset : null}
              trail={brush.trail}
              breadth={css(breadthIn(hands.brush.breadth, artwork.sheet.ppi) * now.scale)}
            />
          )}
          {inkOn && free && !held && !beside && <InkSurface key={inkOn} artwork={artwork} layer={inkOn} ground={ground} />}
          {artwork.area && !held && !beside && !framing && region.w > 0 && <AreaLine artwork={artwork} region={region} level={level} ground={ground} />}
          {hands.held === 'area' && free && !held && !beside && <AreaSurface artwork={artwork} ground={ground} />}
          {framing && free && !held && !beside && <FrameHandles artwork={artwork} ground={ground} onDragging={setDragging} />}
          {hands.held === 'paint' && hands.on?.part === 'detail' && free && !held && !beside && <DetailPins artwork={artwork} ground={ground} />}
          {proofs === 'spot' && !held && !brush.active && !placing && !framing && !beside && <LookSpot at={artwork.lookSpot} ground={ground} />}
          {(wipe === 'upright' || wipe === 'level') && !held && !framing && (
            <WipeLine way={wipe} at={wipeAt} sheet={sheet} ground={ground} onMove={setWipeAt} />
          )}
        </div>
        {(held || note || dropper.asked) && (
          <div className={`${pictureCss.told} ${pictureCss.top}`}>
            {dropper.asked ? 'Click a colour in the picture; Escape leaves it' : held ? against.name : note}
          </div>
        )}
        {beside && (
          <div className={pictureCss.sides} aria-hidden>
            <span>{against.name}</span>
            <span>The artwork</span>
          </div>
        )}
        {trouble ? (
          <div className={`${pictureCss.told} ${pictureCss.bad}`} role="alert">
            {trouble}
          </div>
        ) : (
          <div className={pictureCss.told} aria-live="off">
            {stageText(stage)}
          </div>
        )}
      </div>
    </>
  )
}
