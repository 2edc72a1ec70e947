import { words } from "./words.ts";

/** How full a table gets; above this, probes become long. */
const load = 0.7;

/** A table as plain data, to be handed from one thread to another. */
export interface PackedWords {
  readonly width: 2 | 4;
  readonly size: number;
  readonly keys: Uint32Array;
  readonly hasZero: boolean;
}

/**
 * A set of fixed-width keys (two or four 32-bit words) in one typed array, with open addressing and linear probing.
 * The key to add or look for stands in `words`. The all-zero key marks an empty slot and is kept apart.
 */
export class WordTable {
  size: number;
  readonly #width: 2 | 4;
  readonly #slots: number;
  readonly #keys: Uint32Array;
  #hasZero: boolean;

  private constructor({ width, size, keys, hasZero }: PackedWords) {
    this.#width = width;
    this.#slots = keys.length / width;
    this.#keys = keys;
    this.#hasZero = hasZero;
    this.size = size;
  }

  /** An empty table with room for so many keys. */
  static for(width: 2 | 4, count: number): WordTable {
    const slots = Math.max(8, Math.ceil(count / load));
    return new WordTable({ width, size: 0, keys: new Uint32Array(slots * width), hasZero: false });
  }

  static unpack(packed: PackedWords): WordTable {
    return new WordTable(packed);
  }

  /** What a table consists of, the arrays themselves in it. */
  pack(): PackedWords {
    return { width: this.#width, size: this.size, keys: this.#keys, hasZero: this.#hasZero };
  }

  add(): void {
    if (this.#isZero()) {
      if (!this.#hasZero) this.size++;
      this.#hasZero = true;
      return;
    }
    const at = this.#find();
    if (this.#matches(at)) return;
    for (let w = 0; w < this.#width; w++) this.#keys[at + w] = words[w]!;
    this.size++;
  }

  has(): boolean {
    return this.#isZero() ? this.#hasZero : this.#matches(this.#find());
  }

  /** The keys in it one by one, each as text. */
  *texts(textOf: (keys: Uint32Array, at: number) => string): Generator<string> {
    if (this.#hasZero) yield textOf(new Uint32Array(this.#width), 0);
    for (let at = 0; at < this.#keys.length; at += this.#width) if (!this.#isEmpty(at)) yield textOf(this.#keys, at);
  }

  #isZero(): boolean {
    return words[0] === 0 && words[1] === 0 && (this.#width === 2 || (words[2] === 0 && words[3] === 0));
  }

  /** The offset of the key, or of the empty slot where it would stand. */
  #find(): number {
    const keys = this.#keys;
    const width = this.#width;
    const end = keys.length;
    let at = this.#home() * width;
    while (!this.#isEmpty(at) && !this.#matches(at)) {
      at += width;
      if (at === end) at = 0;
    }
    return at;
  }

  #isEmpty(at: number): boolean {
    const keys = this.#keys;
    if (keys[at] !== 0 || keys[at + 1] !== 0) return false;
    return this.#width === 2 || (keys[at + 2] === 0 && keys[at + 3] === 0);
  }

  #matches(at: number): boolean {
    const keys = this.#keys;
    if (keys[at] !== words[0] || keys[at + 1] !== words[1]) return false;
    return this.#width === 2 || (keys[at + 2] === words[2] && keys[at + 3] === words[3]);
  }

  /** A slot number by multiplicative mixing (the finisher of MurmurHash3), scaled to the table instead of masked. */
  #home(): number {
    let h = words[0]! ^ Math.imul(words[1]!, 0x9e3779b1);
    if (this.#width === 4) h ^= Math.imul(words[2]!, 0x85ebca6b) ^ Math.imul(words[3]!, 0xc2b2ae35);
    h = Math.imul(h ^ (h >>> 16), 0x85ebca6b);
    h = Math.imul(h ^ (h >>> 13), 0xc2b2ae35);
    return Math.floor((((h ^ (h >>> 16)) >>> 0) / 4294967296) * this.#slots);
  }
}
