import { murmur3 } from "../buckets/index.ts";

const load = 0.7;

/** Texts of so many characters and more have their length in four units behind this mark, instead of in one. */
const long = 255;

/** Units that are handed to one call. */
const unitsAtOnce = 4_096;

/** A position takes at most so many bits of a slot. */
const maxBits = 31;

/** A table as plain data, to be handed from one thread to another. */
export interface PackedTexts {
  readonly size: number;
  readonly used: number;
  readonly positionBits: number;
  readonly slots: Uint32Array;
  readonly units: Uint8Array | Uint16Array;
}

/**
 * A set of texts in one array, each behind its length, one byte a character while all are Latin-1, else two. A second array
 * finds them by hash: a slot holds the position of a text, and in the bits that positions leave, bits of its hash, so
 * that a text that is not there is hardly ever compared with one that is.
 */
export class TextTable {
  size: number;
  readonly #positionBits: number;
  readonly #slots: Uint32Array;
  #units: Uint8Array | Uint16Array;
  #used: number;

  private constructor({ size, used, positionBits, slots, units }: PackedTexts) {
    this.size = size;
    this.#used = used;
    this.#positionBits = positionBits;
    this.#slots = slots;
    this.#units = units;
  }

  /** How many units a text takes up. */
  static room(text: string): number {
    return text.length < long ? text.length + 1 : text.length + 5;
  }

  /** An empty table for so many texts, with room for all of them. @throws {RangeError} beyond two thousand million units */
  static for(count: number, room: number): TextTable {
    // No text stands at 0, which marks an empty slot.
    const units = new Uint8Array(room + 1);
    const positionBits = 32 - Math.clz32(units.length);
    if (positionBits > maxBits) throw new RangeError("These ids take more memory than a set of them can have.");
    const slots = new Uint32Array(Math.max(8, Math.ceil(count / load)));
    return new TextTable({ size: 0, used: 1, positionBits, slots, units });
  }

  static unpack(packed: PackedTexts): TextTable {
    return new TextTable(packed);
  }

  /** What a table consists of, the arrays themselves in it. */
  pack(): PackedTexts {
    const { size } = this;
    return { size, used: this.#used, positionBits: this.#positionBits, slots: this.#slots, units: this.#units };
  }

  add(text: string): void {
    const hash = murmur3(text);
    const at = this.#find(text, hash);
    if (this.#slots[at] !== 0) return;
    this.#slots[at] = (hash << this.#positionBits) | this.#used;
    this.#append(text);
    this.size++;
  }

  has(text: string): boolean {
    return this.#slots[this.#find(text, murmur3(text))] !== 0;
  }

  /** The texts in it one by one. */
  *texts(): Generator<string> {
    for (let at = 1; at < this.#used; ) {
      let length = this.#units[at++]!;
      if (length === long) {
        length = 0;
        for (let shift = 0; shift < 32; shift += 8) length |= this.#units[at++]! << shift;
      }
      yield this.#textAt(at, length);
      at += length;
    }
  }

  #textAt(start: number, length: number): string {
    let text = "";
    for (let at = start; at < start + length; at += unitsAtOnce)
      text += String.fromCharCode(...this.#units.subarray(at, Math.min(at + unitsAtOnce, start + length)));
    return text;
  }

  #append(text: string): void {
    const { length } = text;
    if (length < long) this.#units[this.#used++] = length;
    else {
      this.#units[this.#used++] = long;
      for (let shift = 0; shift < 32; shift += 8) this.#units[this.#used++] = (length >>> shift) & 255;
    }
    for (let i = 0; i < length; i++) {
      const unit = text.charCodeAt(i);
      if (unit > 255 && this.#units instanceof Uint8Array) this.#units = Uint16Array.from(this.#units);
      this.#units[this.#used++] = unit;
    }
  }

  /** The slot of a text, or the empty one where it would stand. */
  #find(text: string, hash: number): number {
    const slots = this.#slots;
    const bits = this.#positionBits;
    const mark = hash << bits;
    let at = Math.floor((hash / 4294967296) * slots.length);
    for (;;) {
      const entry = slots[at]!;
      if (entry === 0) return at;
      if ((entry ^ mark) >>> bits === 0 && this.#matches(entry ^ mark, text)) return at;
      if (++at === slots.length) at = 0;
    }
  }

  #matches(position: number, text: string): boolean {
    const units = this.#units;
    const { length } = text;
    if (units[position] !== (length < long ? length : long)) return false;
    let start = position + 1;
    if (length >= long) {
      for (let shift = 0; shift < 32; shift += 8) if (units[start++] !== ((length >>> shift) & 255)) return false;
    }
    for (let i = 0; i < length; i++) if (units[start + i] !== text.charCodeAt(i)) return false;
    return true;
  }
}
