/** The bench's part of the program, loaded when it is first asked for. */
export const loadBench = () => import('./Bench.tsx')
