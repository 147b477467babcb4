import type { Page } from '@playwright/test'
import type { PhotoFacts } from '@nimble-quill/core/testing/chains'

/** Makes an artwork from a photo on the desk, through the API, as one's own script would; answers its id. */
export async function artworkOf(page: Page, name: string, make: (photo: PhotoFacts) => unknown): Promise<string> {
  const origin = new URL(page.url()).origin
  const photos = (await (await page.request.get(`${origin}/api/photos`)).json()) as { name: string; asset: string; width: number; height: number }[]
  const photo = photos.find((p) => p.name === name)!
  const answer = await page.request.post(`${origin}/api/artworks`, {
    headers: { origin },
    data: { document: make({ asset: photo.asset, width: photo.width, height: photo.height, title: name }) },
  })
  if (!answer.ok()) throw new Error(await answer.text())
  return ((await answer.json()) as { id: string }).id
}
