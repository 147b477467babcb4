import { ActionIcon, Menu, Modal } from '@mantine/core'
import type { Artwork } from '@nimble-quill/core'
import { IconBookmark } from '@tabler/icons-react'
import { useRef, useState } from 'react'
import { tell, tellTrouble } from '../../parts/tell.tsx'
import { sentenceOf, useKeepRecipeMutation } from '../../store/api.ts'
import { KeptStates, NameState } from './KeptStates.tsx'
import { MakeRecipe } from './MakeRecipe.tsx'
import { OwnRecipes } from './OwnRecipes.tsx'

type Open = 'name' | 'states' | 'recipe' | 'recipes' | null
const TITLES = { name: 'Keep this state', states: 'Kept states', recipe: 'A recipe of this artwork', recipes: 'Recipes of your own' } as const

/** What is kept of an artwork besides itself: states by name, and recipes made of it. */
export function KeepMenu({ sheet }: { sheet: Artwork['sheet'] }) {
  const [open, setOpen] = useState<Open>(null)
  const file = useRef<HTMLInputElement>(null)
  const [keep] = useKeepRecipeMutation()
  const done = () => setOpen(null)
  const take = async (chosen: File | undefined) => {
    if (!chosen) return
    let recipe: unknown
    try {
      recipe = JSON.parse(await chosen.text())
    } catch {
      tellTrouble(`“${chosen.name}” is not a recipe: it is not JSON. Nothing was taken in.`)
      return
    }
    try {
      const kept = await keep({ recipe }).unwrap()
      tell(`“${kept.title}” stands in the picker now.`)
    } catch (error) {
      tellTrouble(sentenceOf(error))
    }
  }
  return (
    <>
      <Menu position="bottom-end" withinPortal>
        <Menu.Target>
          <ActionIcon aria-label="Keep states and recipes" title="Keep states and recipes">
            <IconBookmark size={18} />
          </ActionIcon>
        </Menu.Target>
        <Menu.Dropdown>
          <Menu.Item onClick={() => setOpen('name')}>Keep this state …</Menu.Item>
          <Menu.Item onClick={() => setOpen('states')}>Kept states …</Menu.Item>
          <Menu.Divider />
          <Menu.Item onClick={() => setOpen('recipe')}>Make a recipe of it …</Menu.Item>
          <Menu.Item onClick={() => setOpen('recipes')}>Recipes of your own …</Menu.Item>
          <Menu.Item onClick={() => file.current?.click()}>Take in a recipe from a file …</Menu.Item>
        </Menu.Dropdown>
      </Menu>
      <input
        ref={file}
        type="file"
        accept="application/json,.json"
        aria-label="Recipe file"
        style={{ display: 'none' }}
        onChange={(e) => {
          void take(e.currentTarget.files?.[0])
          e.currentTarget.value = ''
        }}
      />
      <Modal opened={open !== null} onClose={done} title={open ? TITLES[open] : ''} size={open === 'recipe' ? 640 : 480}>
        {open === 'name' && <NameState onDone={done} />}
        {open === 'states' && <KeptStates sheet={sheet} onDone={done} />}
        {open === 'recipe' && <MakeRecipe onDone={done} />}
        {open === 'recipes' && <OwnRecipes />}
      </Modal>
    </>
  )
}
