/** Numbers with the next ones below and above them, as a double can hold them: they stand for the gaps between. */
export class Neighbours {
  /** One proof comes back to the same numbers over and over. */
  readonly #known = new Map<number, readonly number[]>();

  of(point: number): readonly number[] {
    let known = this.#known.get(point);
    if (known === undefined) {
      known = [next(point, -1), point, next(point, 1)].filter(Number.isFinite);
      this.#known.set(point, known);
    }
    return known;
  }
}

/** The next double above (1) or below (−1) a finite one. */
function next(point: number, direction: 1 | -1): number {
  if (point === 0) return direction * Number.MIN_VALUE;
  const view = new DataView(new ArrayBuffer(8));
  view.setFloat64(0, point);
  const away = point > 0 === direction > 0 ? 1 : -1;
  const low = view.getUint32(4) + away;
  view.setUint32(4, low);
  // Carried into the upper half, or borrowed from it.
  if (low < 0 || low > 0xffff_ffff) view.setUint32(0, view.getUint32(0) + away);
  return view.getFloat64(0);
}
