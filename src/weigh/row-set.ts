/** Rows that were seen, as 64 bits each: two that differ are taken for the same once in millions of files. */
export class RowSet {
  #keys = new Uint32Array(2 << 12);
  #size = 0;

  /** @returns false for a row that is in it already */
  add(row: string): boolean {
    if (this.#size * 3 > this.#keys.length) this.#grow();
    // Two hashes of FNV's kind in one go.
    let one = 0x811c9dc5;
    let other = 0x9747b28c;
    for (let i = 0; i < row.length; i++) {
      const unit = row.charCodeAt(i);
      one = Math.imul(one ^ unit, 0x01000193);
      other = Math.imul((other << 5) ^ (other >>> 2) ^ unit, 0x5bd1e995);
    }
    const isNew = this.#put((one ^ (one >>> 15)) >>> 0 || 1, other >>> 0);
    if (isNew) this.#size++;
    return isNew;
  }

  #put(one: number, other: number): boolean {
    const keys = this.#keys;
    const mask = keys.length / 2 - 1;
    for (let at = one & mask; ; at = (at + 1) & mask) {
      if (keys[2 * at] === 0) {
        keys[2 * at] = one;
        keys[2 * at + 1] = other;
        return true;
      }
      if (keys[2 * at] === one && keys[2 * at + 1] === other) return false;
    }
  }

  #grow(): void {
    const before = this.#keys;
    this.#keys = new Uint32Array(before.length * 2);
    for (let i = 0; i < before.length; i += 2) if (before[i] !== 0) this.#put(before[i]!, before[i + 1]!);
  }
}
