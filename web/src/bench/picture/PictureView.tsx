import { useElementSize, useMergedRef } from '@mantine/hooks'
import type { Artwork, Region, Target } from '@nimble-quill/core'
import { IconArrowsHorizontal, IconArrowsVertical } from '@tabler/icons-react'
import { useCallback, useEffect, useLayoutEffect, useMemo, useRef, useState, type PointerEvent } from 'react'
import { useHotkeys } from 'react-hotkeys-hook'
import { setPrefs } from '../../store/prefs.ts'
import { useAct, useApp } from '../../store/store.ts'
import { useEngine } from '../engine-context.ts'
import { BrushPointer, type PointerHandle } from '../hands/BrushPointer.tsx'
import { breadthIn } from '../hands/pen.ts'
import { usePaint } from '../hands/use-paint.ts'
import { command } from '../slice.ts'
import { useDropper } from '../tuning/dropper.ts'
import { type Stage, stageText, type Wipe, PictureTools } from './PictureTools.tsx'
import { PlaceHandles } from './PlaceHandles.tsx'
import { Mosaics } from './mosaic.ts'
import { fitted, levelFor, lifted, origin, panned, turnedOn, turning, visible, zoomedAt, type Viewport } from './viewport.ts'
import pictureCss from './picture.module.css'

const PHOTO: Target = { type: 'photo' }

/** How long the hand rests before the view settles, milliseconds. */
const REST = 300
/** So many degrees from upright two fingers leave the view, and it stands upright. */
const UPRIGHT = 5

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
  const { values, mirrored, turned } = useApp((s) => s.prefs)
  const dropper = useDropper()
  const hands = useApp((s) => s.hands)
  const screen = { w: Math.round(width * ratio), h: Math.round(height * ratio) }
  // the view's own upright plane; only what is drawn and pointed at is turned
  const turn = turning(screen, turned, mirrored)
  const { size } = turn
  const sheet = artwork.sheet as Region
  const [view, setView] = useState<Viewport | null>(null)
  const [stage, setStage] = useState<Stage>({ stage: 'waiting', level: 0, settled: 0 })
  // counts when what is shown is to be asked for anew, though nothing of it was changed
  const [anew, setAnew] = useState(0)
  const [trouble, setTrouble] = useState<string | null>(null)
  const [held, setHeld] = useState(false)
  const [wipe, setWipe] = useState<Wipe>('off')
  const [wipeAt, setWipeAt] = useState(0.5)
  const main = useRef(new Mosaics())
  const photo = useRef(new Mosaics())
  const frame = useRef(0)

  const now = !view || view.fit ? fitted(sheet, turn.room(sheet)) : view
  const current = useRef(now)
  current.current = now
  const ready = size.w > 2 * 18 && size.h > 2 * 18
  const at = origin(now, size)
  const showPhoto = held || wipe !== 'off'
  const region = visible(now, sheet, size)
  const level = levelFor(now.scale)
  const targetKey = JSON.stringify(target)
  // one thing asked for: another artwork, target or part is another, from the moment it is drawn
  const asked = useMemo(
    () => ({ artwork, targetKey, level, region }),
    // eslint-disable-next-line react-hooks/exhaustive-deps
    [artwork, targetKey, level, region.x, region.y, region.w, region.h, anew],
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
        context.fillRect(x, y, w, h)
        pictures.draw(context, now.scale, at, calm ? 'high' : 'low', turn.square)
        context.restore()
      }
      laid(held ? photo.current : main.current, x, y, w, h)
      if (!held && wipe === 'upright') laid(photo.current, x, y, Math.round(w * wipeAt), h)
      if (!held && wipe === 'level') laid(photo.current, x, y, w, Math.round(h * wipeAt))
    })
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [screen.w, screen.h, turned, mirrored, at.x, at.y, now.scale, sheet, held, wipe, wipeAt, calm])
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
    const changed = !kept && (shown.current?.artwork !== artwork || other || shown.current.anew !== anew)
    shown.current = { artwork, targetKey, anew }
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
            engine.settle('main', target, region, level, listener)
          }, REST)
      },
      onSettled: (settled: number) => {
        setStage({ stage: 'fine', level, settled, asked })
        if (settled === 1) pen.current?.prepare(artwork)
      },
      onFail: (_: string, message: string) => setTrouble(message),
    }
    if (kept && level > 0) {
      setStage({ stage: 'fine', level, settled: 0, asked })
      engine.settle('main', target, region, level, listener, true)
    } else engine.view('main', target, region, changed ? [level + lift.current, level] : [level], listener)
    return () => {
      if (resting) clearTimeout(resting)
    }
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [engine, asked, ready])

  useEffect(() => {
    if (!ready || !showPhoto || region.w <= 0) return
    engine.view('photo', PHOTO, region, [level], {
      onTile: (m) => {
        photo.current.put(m.level, region, m.region, m.pixels)
        repaint.current()
      },
      onLevel: () => undefined,
      onFail: (_, message) => setTrouble(message),
    })
  }, [engine, showPhoto, ready, level, region.x, region.y, region.w, region.h])

  const zoomTo = useCallback(
    (scale: number, px = size.w / 2, py = size.h / 2) => setView((v) => zoomedAt(v && !v.fit ? v : current.current, size, px, py, scale)),
    [size.w, size.h],
  )

  /** Where on the view's plane a pointer is. */
  const pointed = useRef<(e: { clientX: number; clientY: number }) => { x: number; y: number }>(() => ({ x: 0, y: 0 }))
  pointed.current = (e) => {
    const box = easel.current!.getBoundingClientRect()
    return turn.back((e.clientX - box.left) * ratio, (e.clientY - box.top) * ratio)
  }

  // the wheel zooms at the pointer; registered by hand because it must be able to stop the page from scrolling
  useEffect(() => {
    const element = easel.current
    if (!element) return
    const wheel = (e: WheelEvent) => {
      e.preventDefault()
      const step = e.deltaMode === 1 ? e.deltaY * 16 : e.deltaY
      const p = pointed.current(e)
      zoomTo(current.current.scale * 2 ** (-step / (e.ctrlKey ? 120 : 320)), p.x, p.y)
    }
    element.addEventListener('wheel', wheel, { passive: false })
    return () => element.removeEventListener('wheel', wheel)
  }, [zoomTo, ratio])

  const paintView = useMemo(
    () => ({ target, region, level }),
    // eslint-disable-next-line react-hooks/exhaustive-deps
    [targetKey, level, region.x, region.y, region.w, region.h],
  )
  const brush = usePaint({
    engine,
    view: paintView,
    free: free && !held && wipe === 'off' && !dropper.asked,
    place: (e) => {
      const p = pointed.current(e)
      return { x: (p.x - at.x) / now.scale, y: (p.y - at.y) / now.scale }
    },
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
  const pointer = useRef<PointerHandle>(null)

  // one pointer drags or paints, two move, pinch and turn
  const pointers = useRef(new Map<number, { x: number; y: number; screen: { x: number; y: number } }>())
  const down = (e: PointerEvent) => {
    if (dropper.asked) {
      dropper.answer(colourUnder(e))
      return
    }
    const mine = brush.down(e)
    pointers.current.set(e.pointerId, { ...pointed.current(e), screen: { x: e.clientX, y: e.clientY } })
    if (mine) return
    e.currentTarget.setPointerCapture(e.pointerId)
  }
  const move = (e: PointerEvent) => {
    if (brush.active) pointer.current?.at(hands.lent === 'pan' ? null : { x: css(pointed.current(e).x), y: css(pointed.current(e).y) })
    if (brush.move(e)) return
    const was = pointers.current.get(e.pointerId)
    if (!was) return
    const is = { ...pointed.current(e), screen: { x: e.clientX, y: e.clientY } }
    const others = [...pointers.current].filter(([id]) => id !== e.pointerId)
    // a hand that rests, or the brush's own pointer
    if (brush.active && others.length === 0 && hands.lent !== 'pan') return
    if (others.length === 0) setView((v) => panned(v && !v.fit ? v : current.current, sheet, is.x - was.x, is.y - was.y))
    else {
      const other = others[0]![1]
      const before = Math.hypot(was.x - other.x, was.y - other.y)
      const after = Math.hypot(is.x - other.x, is.y - other.y)
      // the middle of the fingers is dragged, their distance zooms, their angle turns
      setView((v) => panned(v && !v.fit ? v : current.current, sheet, (is.x - was.x) / 2, (is.y - was.y) / 2))
      if (before > 0) zoomTo((current.current.scale * after) / before, (is.x + other.x) / 2, (is.y + other.y) / 2)
      const angle = (p: { screen: { x: number; y: number } }) => Math.atan2(p.screen.y - others[0]![1].screen.y, p.screen.x - others[0]![1].screen.x)
      const by = ((angle(is) - angle(was)) * 180) / Math.PI
      const shortest = by > 180 ? by - 360 : by < -180 ? by + 360 : by
      if (Math.abs(shortest) > 0.05) act(setPrefs({ turned: (turned + shortest + 360) % 360 }))
    }
    pointers.current.set(e.pointerId, is)
  }
  const up = (e: PointerEvent) => {
    pointers.current.delete(e.pointerId)
    if (e.type === 'pointercancel') brush.give()
    else brush.up(e)
    // nearly upright after two fingers is meant upright
    const near = Math.round(turned / 90) * 90
    if (e.pointerType === 'touch' && turned % 90 !== 0 && Math.abs(turned - near) < UPRIGHT) act(setPrefs({ turned: near % 360 }))
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
  const nextWipe = useCallback(() => setWipe((x) => (x === 'off' ? 'upright' : x === 'upright' ? 'level' : 'off')), [])
  useHotkeys('0', whole)
  useHotkeys('1', () => zoomTo(1))
  useHotkeys('equal,plus,shift+equal', () => zoomTo(current.current.scale * 1.5), { preventDefault: true })
  useHotkeys('minus', () => zoomTo(current.current.scale / 1.5))
  useHotkeys('o', (e) => setHeld(e.type === 'keydown'), { keydown: true, keyup: true })
  useHotkeys('w', nextWipe)
  useHotkeys('v', () => act(setPrefs({ values: !values })))
  useHotkeys('m', () => act(setPrefs({ mirrored: !mirrored })))
  useHotkeys('r', () => act(setPrefs({ turned: turnedOn(turned, false) })))
  useHotkeys('shift+r', () => act(setPrefs({ turned: turnedOn(turned, true) })))
  useHotkeys('escape', () => dropper.asked && dropper.answer(null))
  useEffect(() => {
    // a key let go outside the window is not told
    const release = () => setHeld(false)
    window.addEventListener('blur', release)
    return () => window.removeEventListener('blur', release)
  }, [])

  const dragWipe = (e: PointerEvent) => {
    if (e.buttons === 0 && e.type === 'pointermove') return
    e.stopPropagation()
    e.currentTarget.setPointerCapture(e.pointerId)
    const p = pointed.current(e)
    const place = wipe === 'upright' ? (p.x - at.x - sheet.x * now.scale) / (sheet.w * now.scale) : (p.y - at.y - sheet.y * now.scale) / (sheet.h * now.scale)
    setWipeAt(Math.min(1, Math.max(0, place)))
  }
  const css = (v: number) => v / ratio
  const spotDrag = useRef(0)
  const moveSpot = (x: number, y: number, gesture: string) => act(command({ command: { type: 'set-look-spot', x, y }, gesture }))
  const dragSpot = (e: PointerEvent) => {
    e.stopPropagation()
    if (e.type === 'pointerdown') {
      spotDrag.current++
      e.currentTarget.setPointerCapture(e.pointerId)
    } else if (e.buttons) {
      const p = pointed.current(e)
      moveSpot((p.x - at.x) / now.scale, (p.y - at.y) / now.scale, `spot-${spotDrag.current}`)
    }
  }

  const refs = useMergedRef(sizeRef, easel)
  return (
    <>
      <PictureTools zoom={now.scale} held={held} wipe={wipe} onWhole={whole} onZoom={zoomTo} onHold={setHeld} onWipe={nextWipe} />
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
          const by = { ArrowLeft: [80, 0], ArrowRight: [-80, 0], ArrowUp: [0, 80], ArrowDown: [0, -80] }[e.key]
          if (by && e.target === e.currentTarget) setView((v) => panned(v && !v.fit ? v : current.current, sheet, by[0]!, by[1]!))
        }}
        onPointerDown={down}
        onPointerMove={move}
        onPointerUp={up}
        onPointerCancel={up}
        // a field typed in before would keep the keys of the brush to itself
        onPointerEnter={() =>
          brush.active && (document.activeElement as HTMLElement | null)?.matches('input, textarea, button') && (document.activeElement as HTMLElement).blur()
        }
        onPointerLeave={() => pointer.current?.at(null)}
        data-painting={brush.active ? (hands.lent ?? 'paint') : undefined}
        data-ready={brush.ready || undefined}
      >
        <canvas ref={canvas} role="img" aria-label={`The picture of “${artwork.title}”`} data-scale={now.scale} data-x={at.x} data-y={at.y} />
        <div className={pictureCss.over} style={{ width: css(size.w), height: css(size.h), transform: turn.css(ratio) }}>
          {!dropper.asked && !brush.active && (
            <PlaceHandles artwork={artwork} scale={css(now.scale)} x={css(at.x)} y={css(at.y)} point={(e) => pointed.current(e)} at={at} zoom={now.scale} />
          )}
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
          {proofs === 'spot' && !held && !brush.active && (
            <button
              className={pictureCss.spot}
              aria-label="Look spot; drag it, or move it with the arrow keys"
              style={{ left: css(at.x + artwork.lookSpot.x * now.scale), top: css(at.y + artwork.lookSpot.y * now.scale) }}
              onPointerDown={dragSpot}
              onPointerMove={dragSpot}
              onKeyDown={(e) => {
                const by = { ArrowLeft: [-8, 0], ArrowRight: [8, 0], ArrowUp: [0, -8], ArrowDown: [0, 8] }[e.key]
                if (by) moveSpot(artwork.lookSpot.x + by[0]!, artwork.lookSpot.y + by[1]!, 'spot-keys')
              }}
            />
          )}
          {wipe !== 'off' && !held && (
            <div
              className={pictureCss.wipe}
              data-way={wipe}
              style={
                wipe === 'upright'
                  ? {
                      left: css(at.x + (sheet.x + sheet.w * wipeAt) * now.scale),
                      top: Math.max(0, css(at.y + sheet.y * now.scale)),
                      height: Math.min(css(size.h), css(sheet.h * now.scale)),
                    }
                  : {
                      top: css(at.y + (sheet.y + sheet.h * wipeAt) * now.scale),
                      left: Math.max(0, css(at.x + sheet.x * now.scale)),
                      width: Math.min(css(size.w), css(sheet.w * now.scale)),
                    }
              }
              onPointerDown={dragWipe}
              onPointerMove={dragWipe}
            >
              <button
                role="slider"
                aria-label="Wipe line: photo before it, artwork behind it"
                aria-valuemin={0}
                aria-valuemax={100}
                aria-valuenow={Math.round(wipeAt * 100)}
                onKeyDown={(e) => {
                  const by = e.key === 'ArrowLeft' || e.key === 'ArrowUp' ? -0.02 : e.key === 'ArrowRight' || e.key === 'ArrowDown' ? 0.02 : 0
                  if (by) setWipeAt((v) => Math.min(1, Math.max(0, v + by)))
                }}
              >
                {wipe === 'upright' ? <IconArrowsHorizontal size={15} /> : <IconArrowsVertical size={15} />}
              </button>
            </div>
          )}
        </div>
        {(held || note || dropper.asked) && (
          <div className={`${pictureCss.told} ${pictureCss.top}`}>
            {dropper.asked ? 'Click a colour in the picture; Escape leaves it' : held ? 'The photo' : note}
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
