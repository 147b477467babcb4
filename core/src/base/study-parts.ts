/** What a study finds in a photo, each of which can be painted over by hand. */
export const studyParts = ['masses', 'flow', 'edges', 'detail', 'focus', 'ground'] as const
export type StudyPart = (typeof studyParts)[number]

export const isStudyPart = (part: string): part is StudyPart => (studyParts as readonly string[]).includes(part)

/** How each is called, what it says, and what a brush makes of it one way and the other. */
export const studyWords: Readonly<Record<StudyPart, { title: string; help: string; more: string; less: string }>> = {
  masses: { title: 'Masses', help: 'The few large values that the drawing is built of.', more: 'Lighter', less: 'Darker' },
  flow: {
    title: 'Flow',
    help: 'The way the forms run, which strokes follow. Comb it: a stroke’s direction becomes the flow there.',
    more: 'Comb',
    less: 'Let go',
  },
  edges: { title: 'Edges', help: 'Found edges stop strokes and get lines; strokes run through lost ones.', more: 'Found', less: 'Lost' },
  detail: {
    title: 'Detail',
    help: 'Where fine marks belong; all else is summarised. It is raised round the look spot and round detail pins.',
    more: 'More',
    less: 'Less',
  },
  focus: { title: 'Focus', help: 'Where the photo is sharp: what is not gets few fine marks, and counts as further back.', more: 'Sharp', less: 'Soft' },
  ground: { title: 'Ground', help: 'What lies behind the subject: a guess. Lines are thinner there.', more: 'Ground', less: 'Subject' },
}
