import type { NameOf } from "../catalogue/index.ts";
import type { Flags } from "../flags/index.ts";
import type { Reading } from "../judge/index.ts";
import { canonicalJson } from "../values/index.ts";
import type { StreamOptions } from "./gate-options.ts";
import { checkStreamOptions } from "./option-shapes.ts";
import { idOf, pageValues } from "./page-values.ts";
import type { PinnedRequest } from "./pinner.ts";

/** Somebody who listens to a stream of changes. */
export interface Listener<C> {
  send(text: string): void;
  /** Bytes that have been sent and not yet taken. */
  waiting(): number;
  /** Ends the stream in good order. */
  end(): void;
  /** Ends the stream without ceremony, and forgets what is waiting. */
  drop(): void;
  /** Gathers the context and looks at the pass once more; rejected where nobody is to be told any more. */
  again(): Promise<PinnedRequest<C>>;
  /** Hears of what could not be judged. */
  failed(error: unknown): void;
  /** The server takes nobody any more, and waits for this answer to end. */
  isLast(): boolean;
  /** The id of the last event that it saw, if it was here before. */
  readonly known: string | undefined;
  /** Where the client is, if that tells clients apart. */
  readonly address: string | undefined;
}

interface Member<C> {
  readonly listener: Listener<C>;
  settled: PinnedRequest<C>;
  /** The values that it was told last, as JSON. */
  told: string;
  /** When its context was gathered; milliseconds of the process. */
  gathered: number;
}

/** What was judged for one, and holds for all whose contexts these flags cannot tell apart. */
interface Judged {
  readonly values: string;
  /** Judged again, and told of, when the first of them is to hear of it. */
  text(): string;
}

const usual = { every: 15_000, again: 60_000, maxWaiting: 65_536, maxListeners: 10_000, maxFromOneAddress: 100 };

/** Clients come back after this many milliseconds when a stream ends. */
const comeBackAfter = 2_000;

/** How often it is looked whether a server waits for its streams; milliseconds. */
const lookAtServers = 250;

/** Judging for many gives way to others after this many milliseconds. */
const longestSlice = 4;

/** Contexts that are gathered again at once. */
const gatheredAtOnce = 20;

/**
 * Tells listeners what their flags give, and again whenever that changes: because other definitions or overrides came
 * into force, or because time went on. Server-sent events (HTML standard): `event: flags`, the values as JSON in `data`.
 * All streams end when the flags are closed, so that a server can stop.
 */
export class ChangeHub<C> {
  readonly #flags: Flags<C>;
  readonly #only: readonly NameOf<C>[];
  readonly #limits: typeof usual;
  readonly #members = new Set<Member<C>>();
  readonly #byAddress = new Map<string, number>();
  #stop: (() => void) | undefined;
  /** The round that is under way, and whether something has happened since that asks for another. */
  #round: Promise<void> | undefined;
  #once: { keepOpen: boolean } | undefined;

  constructor(flags: Flags<C>, options: StreamOptions<NameOf<C>>) {
    const { only, ...limits } = checkStreamOptions(options);
    this.#flags = flags;
    this.#only = only;
    this.#limits = { ...usual, ...withoutGaps(limits) };
  }

  /** Nobody can be taken in from there: too many listen, or the flags are closed. */
  isFullFor(address: string | undefined): boolean {
    if (this.#flags.isClosed || this.#members.size >= this.#limits.maxListeners) return true;
    return address !== undefined && (this.#byAddress.get(address) ?? 0) >= this.#limits.maxFromOneAddress;
  }

  /** @returns a function that ends the listening */
  add(listener: Listener<C>, settled: PinnedRequest<C>): () => void {
    const { text, values } = this.#judge(settled);
    const member = { listener, settled, told: values, gathered: performance.now() };
    this.#members.add(member);
    this.#count(listener.address, 1);
    this.#stop ??= this.#start();
    listener.send(`retry: ${comeBackAfter}\n${listener.known === idOf(values) ? ": nothing new\n\n" : text()}`);
    return () => this.#remove(member);
  }

  #remove(member: Member<C>): void {
    if (!this.#members.delete(member)) return;
    this.#count(member.listener.address, -1);
    if (this.#members.size > 0) return;
    this.#stop?.();
    this.#stop = undefined;
  }

  #count(address: string | undefined, more: number): void {
    if (address === undefined) return;
    const count = (this.#byAddress.get(address) ?? 0) + more;
    if (count > 0) this.#byAddress.set(address, count);
    else this.#byAddress.delete(address);
  }

  #start(): () => void {
    const changed = () => this.#tellAll(false);
    const offs = [
      this.#flags.on("change", changed),
      this.#flags.on("overrides", changed),
      this.#flags.on("closing", () => this.#end()),
    ];
    const timer = setInterval(() => this.#tellAll(true), this.#limits.every);
    const look = setInterval(() => this.#end((listener) => listener.isLast()), lookAtServers);
    timer.unref();
    look.unref();
    return () => {
      for (const off of offs) off();
      clearInterval(timer);
      clearInterval(look);
    };
  }

  #end(which: (listener: Listener<C>) => boolean = () => true): void {
    for (const member of [...this.#members]) if (which(member.listener)) this.#leave(member, "end");
  }

  /** One round after the other; whatever happens during one is told in one more. */
  #tellAll(keepOpen: boolean): void {
    this.#once = { keepOpen: keepOpen || (this.#once?.keepOpen ?? false) };
    // Outside of any scope that whoever caused this runs in: its overrides are nobody else's.
    this.#round ??= this.#flags
      .apart(() => this.#rounds())
      .finally(() => {
        this.#round = undefined;
        // Something may have happened at the very end.
        if (this.#once) this.#tellAll(this.#once.keepOpen);
      });
  }

  async #rounds(): Promise<void> {
    while (this.#once) {
      const { keepOpen } = this.#once;
      this.#once = undefined;
      await this.#oneRound(keepOpen);
      if (keepOpen) await this.#gatherAgain();
    }
  }

  async #oneRound(keepOpen: boolean): Promise<void> {
    let judged = new Map<string, Judged>();
    let readingOf = this.#flags.readingOf(this.#only);
    let begun = performance.now();
    for (const member of [...this.#members]) {
      if (this.#members.has(member)) this.#tell(member, keepOpen, () => this.#judgedWith(member, readingOf, judged));
      if (performance.now() - begun < longestSlice) continue;
      await new Promise((resolve) => setImmediate(resolve));
      begun = performance.now();
      if (!this.#once) continue;
      // Other definitions came into force: the rest is told by those, and everybody before in the next round.
      judged = new Map();
      readingOf = this.#flags.readingOf(this.#only);
    }
  }

  #tell(member: Member<C>, keepOpen: boolean, judge: () => Judged): void {
    const { listener, settled } = member;
    if (listener.waiting() > this.#limits.maxWaiting) return this.#leave(member, "drop");
    // It comes back without the pass, or is turned away.
    if (settled.pass && !this.#flags.takes(settled.pass)) return this.#leave(member, "end");
    try {
      const { values, text } = judge();
      if (values !== member.told) {
        member.told = values;
        return listener.send(text());
      }
    } catch (error) {
      // What cannot be judged any more (a strict program asks for a flag that went) stays as it was told.
      listener.failed(error);
    }
    if (keepOpen) listener.send(": still here\n\n");
  }

  #leave(member: Member<C>, how: "end" | "drop"): void {
    this.#remove(member);
    member.listener[how]();
  }

  #judgedWith({ settled }: Member<C>, readingOf: (context: object) => Reading, judged: Map<string, Judged>): Judged {
    const { context, cacheKey } = readingOf(settled.context);
    if (cacheKey === undefined) return this.#judge(settled);
    const key = `${canonicalJson(settled.pass ?? null)} ${cacheKey}`;
    let known = judged.get(key);
    if (!known) {
      known = this.#judge({ ...settled, context });
      judged.set(key, known);
    }
    return known;
  }

  #judge({ context, pass }: Pick<PinnedRequest<C>, "context" | "pass">): Judged {
    const told = pageValues(this.#flags.pin(context, { pass, quiet: true }), this.#only);
    let text: string | undefined;
    return {
      values: JSON.stringify(told.values),
      text: () => {
        if (text === undefined) {
          // Asked once more, so that listeners learn only of what was sent.
          this.#flags.pin(context, { pass }).values({ only: this.#only });
          text = `event: flags\nid: ${told.id}\ndata: ${JSON.stringify(told)}\n\n`;
        }
        return text;
      },
    };
  }

  /** Who somebody is, and whether the pass still counts, is looked at again from time to time. */
  async #gatherAgain(): Promise<void> {
    const due = performance.now() - this.#limits.again;
    const members = [...this.#members].filter(({ gathered }) => gathered <= due);
    for (let i = 0; i < members.length && !this.#flags.isClosed; i += gatheredAtOnce)
      await Promise.all(members.slice(i, i + gatheredAtOnce).map((member) => this.#gather(member)));
  }

  async #gather(member: Member<C>): Promise<void> {
    const { listener, settled } = member;
    try {
      const again = await listener.again();
      if (settled.pass && !again.pass) return this.#leave(member, "end");
      member.settled = again;
      member.gathered = performance.now();
    } catch (error) {
      listener.failed(error);
      return this.#leave(member, "end");
    }
    if (this.#members.has(member)) this.#tell(member, false, () => this.#judge(member.settled));
  }
}

function withoutGaps<T extends object>(options: T): Partial<typeof usual> {
  return Object.fromEntries(Object.entries(options).filter(([, value]) => value !== undefined));
}
