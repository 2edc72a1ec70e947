import { murmur3 } from "../buckets/index.ts";

const load = 0.7;

/** A table as plain data, to be handed from one thread to another. */
export interface PackedTexts {
  readonly size: number;
  readonly slots: Int32Array;
  readonly offsets: Uint32Array;
  readonly units: Uint8Array | Uint16Array;
}

/**
 * A set of texts as bytes in one array, one byte a character while all are Latin-1, else two. A second array finds
 * them by hash: it holds the number of the text, and the offsets say where it begins and ends.
 */
export class TextTable {
  size: number;
  readonly #slots: Int32Array;
  readonly #offsets: Uint32Array;
  #units: Uint8Array | Uint16Array;
  #used: number;

  private constructor({ size, slots, offsets, units }: PackedTexts) {
    this.size = size;
    this.#slots = slots;
    this.#offsets = offsets;
    this.#units = units;
    this.#used = offsets[size]!;
  }

  /** An empty table with room for so many texts, of so many characters together. */
  static for(count: number, units: number): TextTable {
    return new TextTable({
      size: 0,
      slots: new Int32Array(Math.max(8, Math.ceil(count / load))),
      offsets: new Uint32Array(count + 1),
      units: new Uint8Array(units),
    });
  }

  static unpack(packed: PackedTexts): TextTable {
    return new TextTable(packed);
  }

  /** What a table consists of, the arrays themselves in it. */
  pack(): PackedTexts {
    return { size: this.size, slots: this.#slots, offsets: this.#offsets, units: this.#units };
  }

  add(text: string): void {
    const at = this.#find(text);
    if (this.#slots[at] !== 0) return;
    this.#append(text);
    this.#offsets[this.size + 1] = this.#used;
    this.size++;
    this.#slots[at] = this.size;
  }

  has(text: string): boolean {
    return this.#slots[this.#find(text)] !== 0;
  }

  #append(text: string): void {
    for (let i = 0; i < text.length; i++) {
      const unit = text.charCodeAt(i);
      if (unit > 255 && this.#units instanceof Uint8Array) this.#units = Uint16Array.from(this.#units);
      this.#units[this.#used++] = unit;
    }
  }

  #find(text: string): number {
    const slots = this.#slots;
    let at = Math.floor((murmur3(text, 0) / 4294967296) * slots.length);
    for (;;) {
      const entry = slots[at]!;
      if (entry === 0 || this.#matches(entry - 1, text)) return at;
      if (++at === slots.length) at = 0;
    }
  }

  #matches(index: number, text: string): boolean {
    const start = this.#offsets[index]!;
    if (this.#offsets[index + 1]! - start !== text.length) return false;
    const units = this.#units;
    for (let i = 0; i < text.length; i++) if (units[start + i] !== text.charCodeAt(i)) return false;
    return true;
  }
}
