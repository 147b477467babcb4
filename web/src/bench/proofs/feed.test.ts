import { artworkFromPhoto } from '@nimble-quill/core'
import { Feed } from './feed.ts'

const artwork = (title: string) => artworkFromPhoto({ asset: 'a'.repeat(64), width: 10, height: 10, title })

test('those who listen hear of each other artwork once, until they stop', () => {
  const first = artwork('one')
  const feed = new Feed(first)
  const heard: string[] = []
  const stop = feed.listen(() => heard.push(feed.artwork.title))
  feed.set(first)
  expect(heard).toEqual([])
  feed.set(artwork('two'))
  expect(heard).toEqual(['two'])
  stop()
  feed.set(artwork('three'))
  expect(heard).toEqual(['two'])
  expect(feed.artwork.title).toBe('three')
})
