interface Listener<T> {
  readonly hear: (event: T) => unknown;
}

/** Those who listen to one event. One that throws reaches neither the others nor the caller. */
export class Audience<T> {
  /** Never changed, only replaced: whoever is put on or taken off while listeners are told hears of the next event. */
  #listeners: readonly Listener<T>[] = [];

  get size(): number {
    return this.#listeners.length;
  }

  /** @returns a function that takes the listener off again */
  add(hear: (event: T) => unknown): () => void {
    // An object of its own, so that the same function put on twice is two listeners, each with its own end.
    const own = { hear };
    this.#listeners = [...this.#listeners, own];
    return () => {
      this.#listeners = this.#listeners.filter((each) => each !== own);
    };
  }

  tell(event: T): void {
    for (const { hear } of this.#listeners) {
      try {
        const result = hear(event);
        if (result instanceof Promise) result.catch(() => undefined);
      } catch {
        // A listener is a guest: what it throws is its own affair.
      }
    }
  }

  clear(): void {
    this.#listeners = [];
  }
}
