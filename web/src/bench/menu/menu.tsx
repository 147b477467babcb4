import { Menu } from '@mantine/core'
import { createContext, useCallback, useContext, useMemo, useState, type MouseEvent, type ReactNode } from 'react'

/** One thing that can be done. */
export interface Deed {
  label: string
  run: () => void
  icon?: ReactNode
  /** Its shortcut, as the list of shortcuts writes it. */
  keys?: string
  disabled?: boolean
  /** Of a choice that is on or off. */
  on?: boolean
}
/** What a menu holds: deeds, a line between them, or something of its own that closes it. */
export type MenuPart = Deed | 'line' | { own: (close: () => void) => ReactNode }

type Open = (e: MouseEvent, of: string, parts: readonly MenuPart[]) => void
const MenuContext = createContext<Open>(() => undefined)

/** Opens a menu at the pointer, or at what has the focus where a key asked for it. For `onContextMenu`: right click, long press, the menu key. */
export const useMenu = (): Open => useContext(MenuContext)

/** The one menu of the bench, at the pointer. */
export function MenuAtPointer({ children }: { children: ReactNode }) {
  const [at, setAt] = useState<{ x: number; y: number; of: string; parts: readonly MenuPart[]; back: HTMLElement | null } | null>(null)
  const open = useCallback<Open>((e, of, parts) => {
    e.preventDefault()
    e.stopPropagation()
    const box = e.currentTarget.getBoundingClientRect()
    // a key has no place of its own
    const byKey = e.clientX === 0 && e.clientY === 0
    const back = document.activeElement as HTMLElement | null
    setAt({ x: byKey ? box.left + 12 : e.clientX, y: byKey ? box.top + 12 : e.clientY, of, parts, back })
  }, [])
  const close = useCallback(() => {
    setAt((was) => {
      was?.back?.focus({ preventScroll: true })
      return null
    })
  }, [])
  const shown = useMemo(() => at?.parts ?? [], [at])
  return (
    <MenuContext.Provider value={open}>
      {children}
      <Menu key={at ? `${at.x},${at.y}` : 'none'} opened={at !== null} onChange={(o) => !o && close()} position="bottom-start" width={236} trapFocus offset={2}>
        <Menu.Target>
          <span aria-hidden style={{ position: 'fixed', left: at?.x ?? 0, top: at?.y ?? 0, width: 1, height: 1 }} />
        </Menu.Target>
        <Menu.Dropdown aria-label={at?.of ?? ''} mah="80vh" style={{ overflowY: 'auto' }}>
          <Menu.Label>{at?.of}</Menu.Label>
          {shown.map((part, i) =>
            part === 'line' ? (
              <Menu.Divider key={i} />
            ) : 'own' in part ? (
              <div key={i}>{part.own(close)}</div>
            ) : (
              <Menu.Item
                key={i}
                leftSection={part.icon ?? <span style={{ width: 16, display: 'inline-block' }}>{part.on ? '✓' : ''}</span>}
                rightSection={part.keys ? <small style={{ color: 'var(--faint)' }}>{part.keys}</small> : null}
                disabled={part.disabled ?? false}
                {...(part.on === undefined ? {} : { role: 'menuitemcheckbox', 'aria-checked': part.on })}
                onClick={part.run}
              >
                {part.label}
              </Menu.Item>
            ),
          )}
        </Menu.Dropdown>
      </Menu>
    </MenuContext.Provider>
  )
}
