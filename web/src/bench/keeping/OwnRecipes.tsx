import { Button, Group, Loader, Text } from '@mantine/core'
import type { OwnRecipe } from '@nimble-quill/contracts'
import { tellTrouble } from '../../parts/tell.tsx'
import { sentenceOf, useForgetRecipeMutation, useOwnRecipesQuery } from '../../store/api.ts'
import css from './keeping.module.css'

/** The account's own recipes: as files, and forgotten. They are put on photos from the picker. */
export function OwnRecipes() {
  const { data, error } = useOwnRecipesQuery()
  const [forget] = useForgetRecipeMutation()
  if (error) return <Text>{sentenceOf(error)}</Text>
  if (!data) return <Loader size="sm" />
  if (data.length === 0) return <Text c="var(--faint)">None yet. Make one of an artwork: it stands in the picker for every photo.</Text>
  return (
    <ul className={css.kept} aria-label="Recipes of your own">
      {data.map((r) => (
        <li key={r.id}>
          <Text size="sm" fw={600} style={{ flex: 1 }}>
            {r.title}
          </Text>
          <Group gap={6}>
            <Button size="compact-xs" variant="default" onClick={() => save(r)}>
              As a file
            </Button>
            <Button
              size="compact-xs"
              variant="subtle"
              color="gray"
              onClick={() =>
                void forget(r.id)
                  .unwrap()
                  .catch((e: unknown) => tellTrouble(sentenceOf(e)))
              }
            >
              Forget
            </Button>
          </Group>
        </li>
      ))}
    </ul>
  )
}

/** Downloads a recipe; the command line takes it as it is. */
function save({ recipe }: OwnRecipe): void {
  const url = URL.createObjectURL(new Blob([JSON.stringify(recipe, null, 2)], { type: 'application/json' }))
  const link = document.createElement('a')
  link.href = url
  link.download = `${(recipe as { id?: string }).id ?? 'recipe'}.recipe.json`
  link.click()
  setTimeout(() => URL.revokeObjectURL(url), 1000)
}
