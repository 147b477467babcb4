import { ActionIcon, Menu, Tooltip, useComputedColorScheme, useMantineColorScheme } from '@mantine/core'
import { IconMoon, IconSun, IconUser } from '@tabler/icons-react'
import { memo, type ReactNode } from 'react'
import { NavLink, useNavigate } from 'react-router'
import { api, useSessionQuery, useSignOutMutation } from '../store/api.ts'
import { useAct } from '../store/store.ts'
import partsCss from './parts.module.css'

/** The ways between pages. By themselves, so that a busy page does not draw them again with every change. */
const Ways = memo(function Ways({ named }: { named: boolean }) {
  return (
    <>
      <NavLink to="/" className={partsCss.mark!} aria-label="Nimble Quill, to the desk">
        <img src="/favicon.svg" alt="" />
        {named && 'Nimble Quill'}
      </NavLink>
      <nav aria-label="Pages">
        <NavLink to="/" end className={partsCss.navlink!}>
          Desk
        </NavLink>
        <NavLink to="/renders" className={partsCss.navlink!}>
          Renders
        </NavLink>
      </nav>
    </>
  )
})

/** Appearance and account. */
const Own = memo(function Own() {
  const { data: me } = useSessionQuery()
  const { setColorScheme } = useMantineColorScheme()
  const scheme = useComputedColorScheme('light')
  const [signOut] = useSignOutMutation()
  const act = useAct()
  const go = useNavigate()
  const other = scheme === 'dark' ? 'light' : 'dark'
  const leave = () =>
    void signOut().then(() => {
      act(api.util.resetApiState())
      void go('/sign-in')
    })
  return (
    <>
      <Tooltip label={`Use the ${other} appearance`}>
        <ActionIcon aria-label={`Use the ${other} appearance`} onClick={() => setColorScheme(other)}>
          {scheme === 'dark' ? <IconSun size={17} /> : <IconMoon size={17} />}
        </ActionIcon>
      </Tooltip>
      <Menu position="bottom-end">
        <Menu.Target>
          <ActionIcon aria-label="Account">
            <IconUser size={17} />
          </ActionIcon>
        </Menu.Target>
        <Menu.Dropdown>
          <Menu.Label>{me?.name}</Menu.Label>
          <Menu.Item onClick={leave}>Sign out</Menu.Item>
        </Menu.Dropdown>
      </Menu>
    </>
  )
})

/** The head of every page: mark, the ways between pages, appearance, account. */
export function PageHead({ children, end }: { children?: ReactNode; end?: ReactNode }) {
  return (
    <header className={partsCss.head}>
      <Ways named={!children} />
      {children}
      <span className={partsCss.grow} />
      {end}
      <Own />
    </header>
  )
}
