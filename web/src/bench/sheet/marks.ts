/** Colours that rows can be marked with, by their number in the document; the names stand for them where colours are not seen. */
export const MARKS: readonly { name: string; colour: string }[] = [
  { name: 'madder', colour: '#b5413c' },
  { name: 'ochre', colour: '#c2872b' },
  { name: 'weld', colour: '#c9b93a' },
  { name: 'moss', colour: '#6d8a3b' },
  { name: 'verdigris', colour: '#3f9585' },
  { name: 'woad', colour: '#3d6fa8' },
  { name: 'orchil', colour: '#8759a3' },
  { name: 'slate', colour: '#6b7480' },
]
