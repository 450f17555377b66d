/** A place on a body's skin that stays with it as it moves: corners of a triangle and their shares. */
export type SkinPlace = { corners: readonly [number, number, number]; shares: readonly [number, number, number] };

/** Where a place on a skin lies, given three numbers for each of its vertices. */
export function pointOn(vectors: Float32Array, { corners, shares }: SkinPlace): [number, number, number] {
  const mixed = (k: number) => corners.reduce((sum, c, i) => sum + shares[i]! * (vectors[3 * c + k] ?? 0), 0);
  return [mixed(0), mixed(1), mixed(2)];
}

/** What a field is at a place on a skin. */
export const valueOn = (values: Float32Array, { corners, shares }: SkinPlace): number =>
  corners.reduce((sum, c, i) => sum + shares[i]! * (values[c] ?? 0), 0);
