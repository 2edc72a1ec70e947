/** Lines and columns of a text, both from 1. */
export class LineIndex {
  readonly #starts: number[] = [0];

  constructor(text: string) {
    for (let i = text.indexOf("\n"); i >= 0; i = text.indexOf("\n", i + 1)) this.#starts.push(i + 1);
  }

  position(offset: number): { readonly line: number; readonly column: number } {
    let low = 0;
    let high = this.#starts.length;
    while (high - low > 1) {
      const middle = (low + high) >> 1;
      if (this.#starts[middle]! <= offset) low = middle;
      else high = middle;
    }
    return { line: low + 1, column: offset - this.#starts[low]! + 1 };
  }
}
