import { defineStep, tableOf } from '../contract.ts'

export const invert = defineStep({
  id: 'invert',
  version: 1,
  title: 'Invert',
  group: 'tone',
  kind: 'table',
  help: 'Turns lights to darks and colours to their complements, as a negative does.',
  method: 'v → 1 − v on display-encoded values',
  params: {},
  table: () => tableOf((v) => 1 - v),
})
