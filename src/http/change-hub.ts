import type { Context, Flags, NameOf, Pass } from "../runtime/index.ts";
import { canonicalJson } from "../values/index.ts";
import type { StreamOptions } from "./gate-options.ts";
import { pageValues } from "./page-values.ts";
import type { PinnedRequest } from "./pinner.ts";

/** Somebody who listens to a stream of changes. */
export interface Listener {
  send(text: string): void;
  /** Bytes that have been sent and not yet taken. */
  waiting(): number;
  /** Ends the stream in good order. */
  end(): void;
  /** Ends the stream without ceremony. */
  drop(): void;
}

/** Listeners whose contexts are equal: judged once. */
interface Group {
  readonly context: Context;
  readonly pass: Pass | undefined;
  readonly listeners: Set<Listener>;
  /** What was told last, and its values as JSON. */
  told: { readonly text: string; readonly values: string };
}

const usual = { every: 15_000, mostWaiting: 65_536, mostListeners: 10_000 };

/** Clients come back after this many milliseconds when a stream ends. */
const comeBackAfter = 2_000;

/**
 * Tells listeners what their flags give, and again whenever that changes: because other definitions or overrides came
 * into force, or because time went on. Server-sent events (HTML standard): `event: flags`, the values as JSON in `data`.
 * All streams end when the flags are closed, so that a server can stop.
 */
export class ChangeHub<C> {
  readonly #flags: Flags<C>;
  readonly #only: readonly NameOf<C>[];
  readonly #limits: typeof usual;
  readonly #groups = new Map<unknown, Group>();
  #listeners = 0;
  #stop: (() => void) | undefined;

  constructor(flags: Flags<C>, options: StreamOptions<NameOf<C>>) {
    const { only, every, mostWaiting, mostListeners } = options;
    this.#flags = flags;
    this.#only = only;
    this.#limits = {
      every: every ?? usual.every,
      mostWaiting: mostWaiting ?? usual.mostWaiting,
      mostListeners: mostListeners ?? usual.mostListeners,
    };
  }

  /** Nobody can be taken in: too many listen, or the flags are closed. */
  get isFull(): boolean {
    return this.#listeners >= this.#limits.mostListeners || this.#flags.isClosed;
  }

  /** @returns a function that ends the listening */
  add(listener: Listener, { context, pass }: PinnedRequest<C>): () => void {
    const key = keyOf(context, pass);
    let group = this.#groups.get(key);
    if (group) {
      this.#tell(group, false);
    } else {
      group = { context, pass, listeners: new Set(), told: this.#judge(context, pass) };
      this.#groups.set(key, group);
    }
    group.listeners.add(listener);
    this.#listeners++;
    this.#stop ??= this.#start();
    listener.send(`retry: ${comeBackAfter}\n${group.told.text}`);
    return () => this.#remove(listener, key);
  }

  #remove(listener: Listener, key: unknown): void {
    const group = this.#groups.get(key);
    if (!group?.listeners.delete(listener)) return;
    this.#listeners--;
    if (group.listeners.size === 0) this.#groups.delete(key);
    if (this.#listeners > 0) return;
    this.#stop?.();
    this.#stop = undefined;
  }

  #start(): () => void {
    const round = () => this.#round(false);
    const offs = [
      this.#flags.on("change", round),
      this.#flags.on("overrides", round),
      this.#flags.on("closing", () => this.#end()),
    ];
    const timer = setInterval(() => this.#round(true), this.#limits.every);
    timer.unref();
    return () => {
      for (const off of offs) off();
      clearInterval(timer);
    };
  }

  #round(keepOpen: boolean): void {
    for (const group of [...this.#groups.values()]) this.#tell(group, keepOpen);
  }

  #tell(group: Group, keepOpen: boolean): void {
    const changed = this.#hasChanged(group);
    if (changed) group.told = this.#judge(group.context, group.pass);
    for (const listener of [...group.listeners]) {
      if (listener.waiting() > this.#limits.mostWaiting) listener.drop();
      else if (changed) listener.send(group.told.text);
      else if (keepOpen) listener.send(": still here\n\n");
    }
  }

  #end(): void {
    for (const group of [...this.#groups.values()]) for (const listener of [...group.listeners]) listener.end();
  }

  /** What cannot be judged any more (a strict program asks for a flag that went) stays as it was told. */
  #hasChanged({ context, pass, told }: Group): boolean {
    try {
      const { values } = pageValues(this.#flags.pin(context, { pass, quiet: true }), this.#only);
      return JSON.stringify(values) !== told.values;
    } catch {
      return false;
    }
  }

  #judge(context: Context, pass: Pass | undefined): Group["told"] {
    const told = pageValues(this.#flags.pin(context, { pass }), this.#only);
    const text = `event: flags\nid: ${told.revision}\ndata: ${JSON.stringify(told)}\n\n`;
    return { text, values: JSON.stringify(told.values) };
  }
}

/** Contexts that cannot be written as JSON are like no other. */
function keyOf(context: Context, pass: Pass | undefined): unknown {
  try {
    return canonicalJson([context, pass?.flags, pass?.expires]);
  } catch {
    return context;
  }
}
