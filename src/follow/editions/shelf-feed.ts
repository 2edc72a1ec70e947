import { type Keep, putTextsAway } from "../../files/index.ts";
import {
  type Feeding,
  type ShelfOptions,
  type ShelfOrigin,
  type StartedFeed,
  type State,
  stopped,
  suspended,
} from "../../flags/index.ts";
import { compareSets } from "../../insight/index.ts";
import {
  calledEdition,
  callingOff,
  type Edition,
  type Hearing,
  type Place,
  reasonOf,
  ShelfFault,
  type ShelfStops,
} from "../../shelf/index.ts";
import { LocalLayers } from "../local-layers.ts";
import { advanceBy, errorsIn, putIntoForce } from "../put-into-force.ts";
import { EditionLane, type EditionTaker } from "./edition-lane.ts";
import type { EditionReader, ReadEdition } from "./edition-reader.ts";
import type { FileStore } from "./file-store.ts";
import { GoodCopies } from "./good-copies.ts";
import type { FoundList } from "./newest-list.ts";
import { isSame, originOf, withStopsIn } from "./origin-of.ts";
import { Outage } from "./outage.ts";
import { nextWait } from "./pace.ts";
import { Presence } from "./presence.ts";
import type { ShelfLists } from "./shelf-lists.ts";
import { type Start, stopsRefused } from "./starting-point.ts";

/** News is taken at most this often, however many notices come; milliseconds. */
const newsEvery = 100;

export interface Following {
  readonly place: Place;
  readonly options: ShelfOptions<unknown>;
  readonly store: FileStore;
  readonly lists: ShelfLists;
  readonly reader: EditionReader;
  readonly keep: Keep | undefined;
  readonly feeding: Feeding;
  readonly start: Start;
}

/** Feeds flags from a shelf: looks at both of its lists, and hands what they say to the store; the stops first. */
export class ShelfFeed implements StartedFeed, EditionTaker {
  readonly #following: Following;
  readonly #feeding: Feeding;
  readonly #local: LocalLayers;
  readonly #copies: GoodCopies;
  readonly #presence: Presence;
  readonly #lane: EditionLane;
  readonly #calledOff = callingOff();
  #hearing: Hearing | undefined;
  #looking: Promise<void> | undefined;
  /** Something was heard while a look was under way. */
  #lookAgain = false;
  #lookedAt = Number.NEGATIVE_INFINITY;
  #timer: NodeJS.Timeout | undefined;
  readonly #outage: Outage;
  /** The list of stops could not be had at the last look. */
  #areStopsAway = false;
  /** Why the list of stops is not taken, while it is not. */
  #stopsFault: string | undefined;
  /** Whether the edition that was read last is in force. */
  #isNewest: boolean;
  /** An edition that waits for the stops that it names. */
  #awaiting: Edition | undefined;
  /** The edition that came into force last. */
  #edition: Edition;
  #since = new Date().toISOString();

  constructor(following: Following) {
    const { place, options, store, reader, keep, feeding, start } = following;
    this.#following = following;
    this.#feeding = feeding;
    this.#local = new LocalLayers(feeding);
    this.#copies = new GoodCopies(keep, store, feeding.report);
    this.#lane = new EditionLane(reader, this, this.#calledOff.signal);
    this.#isNewest = !start.kept;
    this.#outage = new Outage(place.called, options.staleAfter, feeding, start.why);
    this.#edition = start.read.edition;
    this.#presence = new Presence(place, options, () => this.#current, feeding.report);
  }

  async start(): Promise<void> {
    const { place, options, lists, start } = this.#following;
    for (const note of start.notes) this.#feeding.report(note);
    if (start.why !== undefined) this.#feeding.unsound([{ message: start.why }]);
    this.#local.useVariable(options.overrides);
    await this.#local.readFile(options.localOverrides);
    putTextsAway(start.read.loaded.content);
    if (start.stopsList) await this.#copies.keepStops(start.stopsList);
    if (!start.kept) await this.#copies.keep(start.read.edition, lists.edition.seen);
    this.#presence.start();
    this.#hearing = place.hear?.({
      changed: () => this.#hear(),
      failed: (reason) => this.#outage.tell(reason),
    });
    this.#outage.expectWord();
    // Its list has been seen, and is not shown as a new one again.
    if (start.wanted) this.#want(start.wanted);
    this.#schedule(start.kept ? 0 : nextWait(place.every, undefined, 0));
  }

  async close(): Promise<void> {
    this.#calledOff.abort();
    clearTimeout(this.#timer);
    this.#outage.close();
    await this.#hearing?.close();
    await this.#looking;
    await this.#lane.settled();
    await this.#presence.leave();
    this.#following.reader.close();
    await this.#following.store.close();
  }

  /** Others are told what this process gives now. */
  wentBack(): void {
    this.#presence.say();
  }

  get #isClosed(): boolean {
    return this.#calledOff.signal.aborted;
  }

  #schedule(milliseconds: number): void {
    clearTimeout(this.#timer);
    if (this.#isClosed) return;
    this.#timer = setTimeout(() => this.#look(), milliseconds).unref();
  }

  /** A flood of notices, which anybody can send, brings no more than ten looks a second. */
  #hear(): void {
    const soon = this.#lookedAt + newsEvery - performance.now();
    if (soon <= 0) return this.#look();
    if (!this.#lookAgain) this.#schedule(soon);
  }

  /** One look at a time; what is heard during it is looked for once more. */
  #look(): void {
    if (this.#isClosed) return;
    this.#lookAgain = this.#looking !== undefined;
    if (this.#looking) return;
    clearTimeout(this.#timer);
    this.#lookedAt = performance.now();
    this.#looking = this.#lookOnce().then((wait) => {
      this.#looking = undefined;
      this.#schedule(this.#lookAgain ? newsEvery : wait);
      this.#lookAgain = false;
    });
  }

  /** @returns how long to wait before the next look */
  async #lookOnce(): Promise<number> {
    const both = this.#following.lists.look(this.#calledOff.signal);
    both.stops.catch(() => {
      this.#areStopsAway = true;
    });
    const waits = await Promise.all([
      this.#followed(both.stops, (found) => this.#takeStops(found)),
      this.#followed(both.edition, (found) => this.#takeEdition(found)),
      this.#local.readFile(this.#following.options.localOverrides).catch((error: unknown) => this.failed(error)),
    ]);
    const asked = waits.filter((wait) => typeof wait === "number");
    return this.#wait(asked.length > 0 ? Math.max(...asked) : undefined);
  }

  #wait(asked?: number): number {
    return nextWait(this.#following.place.every, asked, this.#lane.incomplete);
  }

  /** What one of the lists says; neither keeps the other from being taken. */
  async #followed<T>(
    looking: Promise<FoundList<T>>,
    take: (found: FoundList<T>) => Promise<void> | void,
  ): Promise<number | undefined> {
    try {
      const found = await looking;
      await take(found);
      return found.wait;
    } catch (error) {
      this.failed(error);
      return error instanceof ShelfFault ? error.wait : undefined;
    }
  }

  /** The stops are in force as soon as they are here, whatever becomes of an edition. */
  async #takeStops(found: FoundList<ShelfStops>): Promise<void> {
    this.#areStopsAway = false;
    if (found.kind === "refused") return this.#missStops(stopsRefused(found));
    this.#stopsFault = undefined;
    if (found.kind !== "list") return;
    const { stops } = this.#following.start;
    stops.take(found);
    await this.#stop();
    await this.#copies.keepStops({ number: found.list.number, text: found.text });
    this.#presence.say();
    if (this.#awaiting) this.#want(this.#awaiting);
  }

  /** An edition that is confirmed does not make the stops well: their fault stands, and is told once. */
  #missStops(message: string): void {
    if (this.#isClosed || this.#stopsFault === message) return;
    this.#stopsFault = message;
    this.#feeding.report(message);
    this.#feeding.unsound([{ message }]);
  }

  async #stop(): Promise<void> {
    const { stops, read } = this.#following.start;
    const { memory } = read.loaded.content.tools;
    const step = (state: State) => withStopsIn(stopped(state, stops.suspended), stops.number);
    await advanceBy(step, this.#feeding, { memory, closing: this.#calledOff.signal });
  }

  #takeEdition(found: FoundList<Edition>): Promise<void> | void {
    switch (found.kind) {
      case "empty":
        return this.#outage.tell("The shelf holds no edition any more.");
      case "refused":
        return this.#refuse(found.number, found.why);
      case "list":
        if (found.list.number === this.#edition.number && this.#isNewest) return this.#confirm();
        return this.#want(found.list);
      case "same":
        this.#lane.goOn();
        if (!this.#isNewest || !this.#lane.isIdle || this.#awaiting) return;
        this.#confirm();
        return this.#copies.retry();
    }
  }

  #want(edition: Edition): void {
    const notYet = this.#following.start.stops.whyNotYet(edition);
    this.#awaiting = notYet === undefined ? undefined : edition;
    if (notYet === undefined) this.#lane.want(edition);
    else this.#outage.tell(notYet);
  }

  /** @internal */
  async take(found: ReadEdition): Promise<void> {
    const { edition, loaded } = found;
    const outcome = await this.#outcomeOf(found);
    if (outcome === "closed") return;
    this.#isNewest = outcome === "taken";
    if (outcome === "refused") {
      const [first] = errorsIn(loaded.problems);
      return this.#refuse(edition.number, first?.message ?? "it does not hold this environment", true);
    }
    if (outcome !== "taken") return this.#refuse(edition.number, outcome.why);
    this.#edition = edition;
    this.#since = new Date().toISOString();
    this.#confirm();
    this.#presence.say();
    putTextsAway(loaded.content);
    await this.#copies.keep(edition, this.#following.lists.edition.seen);
  }

  /** @internal */
  failed(error: unknown): void {
    if (this.#isClosed) return;
    this.#outage.tell(error instanceof ShelfFault ? error.message : `The shelf cannot be read: ${reasonOf(error)}.`);
    if (this.#lane.incomplete > 0) this.#schedule(this.#wait());
  }

  /** What became of an edition on its way into force; why it is not, where this program will not have it. */
  async #outcomeOf({ edition, loaded }: ReadEdition) {
    const { place, options, start } = this.#following;
    this.#suspendFirst(loaded.suspensions);
    try {
      return await putIntoForce(this.#feeding, {
        loaded,
        called: place.called,
        environment: options.environment,
        suspensions: () => loaded.suspensions,
        origin: () => originOf(place, edition, start.stops.number),
        closing: this.#calledOff.signal,
      });
    } catch (error) {
      return { why: reasonOf(error) };
    }
  }

  /** Where somebody has gone back, an edition that only suspends or reinstates must not bring the rest forward. */
  #suspendFirst(suspensions: ReadEdition["loaded"]["suspensions"]): void {
    const { state } = this.#feeding.store;
    if (suspensions === undefined || state.origin.kind !== "history") return;
    const next = suspended(state, suspensions);
    if (next !== state) this.#feeding.advance(next, compareSets(state.inForce, next.inForce));
  }

  /** @param isTold whether it was told of already */
  #refuse(edition: number | undefined, why: string, isTold = false): void {
    const message = `${calledEdition(edition)} is refused: ${why}.`;
    if (!isTold) this.#outage.tell(message);
    this.#feeding.unsound([{ message }]);
    const { origin } = this.#feeding.store.state;
    if (origin.kind === "shelf" && !isSame(origin.refused, { edition, why }))
      this.#useOrigin({ ...origin, refused: { edition, why } });
    this.#presence.say();
  }

  /** The shelf says that what is in force is its newest. */
  #confirm(): void {
    if (!this.#areStopsAway) this.#outage.over();
    const { origin } = this.#feeding.store.state;
    if (origin.kind === "shelf") {
      const { refused: _, ...sound } = origin;
      this.#useOrigin({ ...sound, kept: false, confirmed: new Date() });
    }
    if (this.#stopsFault === undefined) this.#feeding.sound();
    this.#outage.expectWord();
  }

  #useOrigin(origin: ShelfOrigin): void {
    this.#feeding.store.put({ ...this.#feeding.store.state, origin });
  }

  /** What this process gives. */
  get #current() {
    const { origin, inForce } = this.#feeding.store.state;
    return {
      edition: this.#edition.number,
      stops: this.#following.start.stops.number,
      revision: inForce.revision,
      goneBack: origin.kind === "history",
      refused: origin.kind === "shelf" ? origin.refused : undefined,
      since: this.#since,
    };
  }
}
