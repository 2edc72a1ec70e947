import { type PackedTexts, TextTable } from "./text-table.ts";
import { type PackedWords, WordTable } from "./word-table.ts";
import { integerText, readInteger, readUuid, uuidText } from "./words.ts";

interface Parts {
  readonly size: number;
  readonly small?: ReadonlySet<string> | undefined;
  readonly integers?: WordTable | undefined;
  readonly uuids?: WordTable | undefined;
  readonly texts?: TextTable | undefined;
}

/** A set as plain data, to be handed from one thread to another. */
export interface PackedIds {
  readonly size: number;
  readonly small: readonly string[] | undefined;
  readonly integers: PackedWords | undefined;
  readonly uuids: PackedWords | undefined;
  readonly texts: PackedTexts | undefined;
}

/** Sets below this size stay a plain `Set`: the tables pay off only where there are many ids. */
const smallSet = 20_000;

/** Up to so many ids are handed out as texts. */
const fewIds = 2_000;

/** What is asked of a set of ids. */
export interface IdLookup {
  /** How many different ids there are. */
  readonly size: number;
  /** Whether the id is one of them. */
  has(id: string): boolean;
  /** All of them, where they are few: at most 2,000. */
  few(): readonly string[] | undefined;
}

/**
 * Exact membership of ids. Large sets are kept in typed arrays chosen by the shape of the ids: decimal integers and
 * UUIDs as their numbers, everything else as its characters.
 *
 * @example IdSet.from(["A-17", "A-18"]).has("A-17") // true
 */
export class IdSet implements IdLookup {
  /** How many different ids there are. */
  readonly size: number;
  readonly #small: ReadonlySet<string> | undefined;
  readonly #integers: WordTable | undefined;
  readonly #uuids: WordTable | undefined;
  readonly #texts: TextTable | undefined;

  private constructor(parts: Parts) {
    this.size = parts.size;
    this.#small = parts.small;
    this.#integers = parts.integers;
    this.#uuids = parts.uuids;
    this.#texts = parts.texts;
  }

  /**
   * Holds each id once; ids are compared as texts, character by character.
   *
   * @example IdSet.from(["A-17", "A-18"]).has("A-17") // true
   */
  static from(ids: Iterable<string>): IdSet {
    const all = Array.isArray(ids) ? (ids as readonly string[]) : [...ids];
    if (all.length < smallSet) {
      const small = new Set(all);
      return new IdSet({ size: small.size, small });
    }
    return IdSet.#tables(all);
  }

  static #tables(ids: readonly string[]): IdSet {
    const counts = { integer: 0, uuid: 0, text: 0, room: 0 };
    for (const id of ids) {
      const kind = shapeOf(id);
      counts[kind]++;
      if (kind === "text") counts.room += TextTable.room(id);
    }
    const integers = counts.integer ? WordTable.for(2, counts.integer) : undefined;
    const uuids = counts.uuid ? WordTable.for(4, counts.uuid) : undefined;
    const texts = counts.text ? TextTable.for(counts.text, counts.room) : undefined;
    for (const id of ids) {
      if (readInteger(id)) integers!.add();
      else if (readUuid(id)) uuids!.add();
      else texts!.add(id);
    }
    const size = (integers?.size ?? 0) + (uuids?.size ?? 0) + (texts?.size ?? 0);
    return new IdSet({ size, integers, uuids, texts });
  }

  /** A set made by `pack`, in another thread perhaps. @internal */
  static unpack({ size, small, integers, uuids, texts }: PackedIds): IdSet {
    return new IdSet({
      size,
      small: small && new Set(small),
      integers: integers && WordTable.unpack(integers),
      uuids: uuids && WordTable.unpack(uuids),
      texts: texts && TextTable.unpack(texts),
    });
  }

  /** The set as plain data; its arrays are the set's own, so that whoever hands them away gives the set up. @internal */
  pack(): PackedIds {
    return {
      size: this.size,
      small: this.#small && [...this.#small],
      integers: this.#integers?.pack(),
      uuids: this.#uuids?.pack(),
      texts: this.#texts?.pack(),
    };
  }

  /** All of them, where they are few: at most 2,000. */
  few(): readonly string[] | undefined {
    return this.#small && this.size <= fewIds ? [...this.#small] : undefined;
  }

  /** Each of them once, in no order that means anything. */
  *[Symbol.iterator](): Generator<string> {
    if (this.#small) yield* this.#small;
    if (this.#integers) yield* this.#integers.texts(integerText);
    if (this.#uuids) yield* this.#uuids.texts(uuidText);
    if (this.#texts) yield* this.#texts.texts();
  }

  /** Whether the id is one of them. */
  has(id: string): boolean {
    if (this.#small !== undefined) return this.#small.has(id);
    const first = id.charCodeAt(0);
    if (first >= 48 && first <= 57 && id.length <= 16 && readInteger(id)) return this.#integers?.has() ?? false;
    if (id.length === 36 && readUuid(id)) return this.#uuids?.has() ?? false;
    return this.#texts?.has(id) ?? false;
  }
}

function shapeOf(id: string): "integer" | "uuid" | "text" {
  return readInteger(id) ? "integer" : readUuid(id) ? "uuid" : "text";
}

/** The memory behind a packed set, which can be handed to another thread without being copied. */
export function buffersOf({ integers, uuids, texts }: PackedIds): ArrayBuffer[] {
  const arrays = [integers?.keys, uuids?.keys, texts?.slots, texts?.units];
  return arrays.flatMap((array) => (array ? [array.buffer as ArrayBuffer] : []));
}
