type Members<T> = ReadonlyMap<string, T>;

/** A map with other members under some of its names, which costs as much as those. */
class LayeredMap<T extends object> implements ReadonlyMap<string, T> {
  readonly base: Members<T>;
  readonly over: Members<T>;

  constructor(base: Members<T>, over: Members<T>) {
    this.base = base;
    this.over = over;
  }

  get size(): number {
    return this.base.size;
  }

  get(name: string): T | undefined {
    return this.over.get(name) ?? this.base.get(name);
  }

  has(name: string): boolean {
    return this.base.has(name);
  }

  keys(): MapIterator<string> {
    return this.base.keys();
  }

  *entries(): MapIterator<[string, T]> {
    for (const [name, member] of this.base) yield [name, this.over.get(name) ?? member];
  }

  *values(): MapIterator<T> {
    for (const [, member] of this.entries()) yield member;
  }

  [Symbol.iterator](): MapIterator<[string, T]> {
    return this.entries();
  }

  forEach(call: (member: T, name: string, map: Members<T>) => void, self?: unknown): void {
    for (const [name, member] of this.entries()) call.call(self, member, name, this);
  }
}

/** A layer that holds more than this share of a map is made one with it. */
const maxShare = 1 / 8;

/** Stands for a map without keeping it alive. */
const marks = new WeakMap<Members<unknown>, object>();
const origins = new WeakMap<Members<unknown>, { readonly from: object; readonly names: readonly string[] }>();

/** A map with other members under names that it has already, in the same order; where they differ is remembered. */
export function withMembers<T extends object>(from: Members<T>, members: Members<T>): Members<T> {
  const { base, over } = from instanceof LayeredMap ? (from as LayeredMap<T>) : { base: from, over: new Map() };
  const layered = new LayeredMap(base, new Map([...over, ...members]));
  const map = layered.over.size > base.size * maxShare ? new Map(layered) : layered;
  const mark = marks.get(from) ?? {};
  marks.set(from, mark);
  origins.set(map, { from: mark, names: [...members.keys()] });
  return map;
}

/** The names under which a map may hold something else than an earlier one; undefined where it was not made of that. */
export function namesChanged(from: Members<unknown>, map: Members<unknown>): readonly string[] | undefined {
  if (from === map) return [];
  const origin = origins.get(map);
  return origin && origin.from === marks.get(from) ? origin.names : undefined;
}
