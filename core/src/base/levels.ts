/**
 * How often a length can be halved before it is shorter than 1: whole levels down, 0 … 16. By comparing powers of two: every machine
 * decides the same.
 */
export function halvings(length: number): number {
  let n = 0
  for (let l = length; l >= 2 && n < 16; l /= 2) n++
  return n
}
