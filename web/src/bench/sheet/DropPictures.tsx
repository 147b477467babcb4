import { useEffect, useRef, useState } from 'react'
import { takesText } from '../../parts/keys.ts'
import sheetCss from './sheet.module.css'
import { useAddLayer } from './use-add-layer.ts'

const filesOf = (data: DataTransfer | null): File[] => [...(data?.files ?? [])]

let pasted = -Infinity
/** When a picture was last pasted, by performance.now(). */
export const pastedAt = (): number => pasted

/** Pictures that are dropped anywhere on the bench, or pasted, become layers. */
export function DropPictures() {
  const { addFiles } = useAddLayer()
  const [over, setOver] = useState(false)
  const add = useRef(addFiles)
  add.current = addFiles
  useEffect(() => {
    const carries = (e: DragEvent) => e.dataTransfer?.types.includes('Files') === true
    let leaves: ReturnType<typeof setTimeout> | undefined
    const drag = (e: DragEvent) => {
      if (!carries(e)) return
      e.preventDefault()
      e.dataTransfer!.dropEffect = 'copy'
      setOver(true)
      // the pointer may leave the window without a word
      clearTimeout(leaves)
      leaves = setTimeout(() => setOver(false), 400)
    }
    const drop = (e: DragEvent) => {
      if (!carries(e)) return
      e.preventDefault()
      setOver(false)
      void add.current(filesOf(e.dataTransfer))
    }
    const paste = (e: ClipboardEvent) => {
      const files = filesOf(e.clipboardData).filter((f) => f.type.startsWith('image/'))
      if (files.length === 0 || takesText(e.target as Element | null)) return
      e.preventDefault()
      pasted = performance.now()
      // a picture that was copied has no name of its own
      void add.current(files.map((f) => (f.name && f.name !== 'image.png' ? f : new File([f], 'Pasted picture.png', { type: f.type }))))
    }
    window.addEventListener('dragover', drag)
    window.addEventListener('drop', drop)
    window.addEventListener('paste', paste)
    return () => {
      clearTimeout(leaves)
      window.removeEventListener('dragover', drag)
      window.removeEventListener('drop', drop)
      window.removeEventListener('paste', paste)
    }
  }, [])
  return over ? <div className={sheetCss.dropping}>Let go: the picture becomes a layer above the chosen one</div> : null
}
