import { longestList } from "../../language/index.ts";
import { type Plain, readDate } from "../../values/index.ts";
import { isNested, step } from "./reach.ts";

type Copy = Record<string, unknown>;

/** What stands for what is not looked into: there, and of no type that a test could decide. */
const opaque = Object.freeze({});

/**
 * A harmless copy of the parts of a context that judging asks for: own properties only, objects without a prototype,
 * lists without getters, dates as they stand now. What throws when read is left out, and so counts as missing. It grows as more is asked for.
 */
export class HarmlessCopy {
  readonly context: Plain;
  readonly #original: unknown;
  readonly #top: Copy = emptyCopy();
  readonly #copies = new Set<unknown>([this.#top]);
  readonly #taken = new Set<readonly string[]>();

  constructor(original: unknown) {
    this.#original = original;
    this.context = this.#top;
  }

  /** Copies what is at these paths, as far as it is not there yet. */
  take(paths: Iterable<readonly string[]>): Plain {
    for (const path of paths) {
      if (this.#taken.has(path)) continue;
      this.#taken.add(path);
      this.#take(path);
    }
    return this.context;
  }

  #take(path: readonly string[]): void {
    let from = this.#original;
    let to = this.#top;
    const last = path.length - 1;
    for (let i = 0; i < last; i++) {
      const key = path[i]!;
      const inner = attempt(() => nestedAt(from, key));
      if (inner === undefined) return;
      from = inner;
      to = this.#inside(to, key);
    }
    const key = path[last];
    if (key === undefined || this.#copies.has(to[key])) return;
    const value = attempt(() => copyValue(step(from, key)));
    if (value !== undefined) to[key] = value;
  }

  #inside(holder: Copy, key: string): Copy {
    if (!this.#copies.has(holder[key])) {
      const copy = emptyCopy();
      holder[key] = copy;
      this.#copies.add(copy);
    }
    return holder[key] as Copy;
  }
}

function emptyCopy(): Copy {
  return Object.create(null) as Copy;
}

function nestedAt(value: unknown, key: string): object | undefined {
  const inner = step(value, key);
  return isNested(inner) ? inner : undefined;
}

function copyValue(value: unknown): unknown {
  if (typeof value !== "object" || value === null) return value;
  const list = attempt(() => (Array.isArray(value) ? (value as readonly unknown[]) : null));
  // A proxy that has been revoked does not tell, and is there all the same.
  if (list === undefined) return opaque;
  if (list === null) return attempt(() => isNested(value)) === false ? new Date(readDate(value)) : opaque;
  const { length } = list;
  if (length > longestList) return opaque;
  const copy: unknown[] = [];
  for (let i = 0; i < length; i++) copy.push(attempt(() => list[i]));
  return copy;
}

function attempt<T>(read: () => T): T | undefined {
  try {
    return read();
  } catch {
    return undefined;
  }
}
