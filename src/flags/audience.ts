interface Listener<T> {
  readonly hear: (event: T) => unknown;
}

/** Those who listen to one event. One that throws reaches neither the others nor the caller. */
export class Audience<T> {
  /** Never changed, only replaced: whoever is put on or taken off while listeners are told hears of the next event. */
  #listeners: readonly Listener<T>[] = [];
  /** The listener that is being told. */
  #told: Listener<T> | undefined;
  readonly #waiting: { readonly event: T; readonly by: Listener<T> | undefined }[] = [];

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

  /** What a listener causes while it is told is told afterwards, to the others. */
  tell(event: T): void {
    this.#waiting.push({ event, by: this.#told });
    if (this.#told) return;
    for (let next = this.#waiting.shift(); next; next = this.#waiting.shift()) {
      for (const listener of this.#listeners) if (listener !== next.by) this.#hand(next.event, listener);
    }
  }

  #hand(event: T, listener: Listener<T>): void {
    this.#told = listener;
    try {
      const result = listener.hear(event);
      if (result instanceof Promise) result.catch(() => undefined);
    } catch {
      // A listener is a guest: what it throws is its own affair.
    }
    this.#told = undefined;
  }

  clear(): void {
    this.#listeners = [];
  }
}
