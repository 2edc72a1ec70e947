/** What is kept of objects that belong to others, for as long as each of them lives. */
export interface Beside<T> {
  get(object: object): T | undefined;
  set(object: object, value: T): void;
}

/** A constructor that makes nothing: what is made of it gets its private fields put on the object that it is given. */
class Given {
  constructor(object: object) {
    // biome-ignore lint/correctness/noConstructorReturn: this is how a private field comes to be on a foreign object
    return object;
  }
}

/**
 * A place of its own, seen by nobody else. It does what a `WeakMap` does, by a private field on the object itself:
 * entries of a `WeakMap` are what a garbage collector has most trouble with, and two of them for each request took a
 * tenth of the CPU time of a whole one.
 *
 * @example
 * const marks = beside<{ isGated: boolean }>();
 * marks.set(request, { isGated: true });
 * marks.get(request)?.isGated // true
 */
export function beside<T>(): Beside<T> {
  return class Kept extends Given {
    #value: T;

    private constructor(object: object, value: T) {
      super(object);
      this.#value = value;
    }

    static get(object: object): T | undefined {
      return #value in object ? object.#value : undefined;
    }

    static set(object: object, value: T): void {
      if (#value in object) object.#value = value;
      else new Kept(object, value);
    }
  };
}
