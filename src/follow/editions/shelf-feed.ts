import { basename, dirname, resolve } from "node:path";
import { Disk, fileName, type Keep, putTextsAway } from "../../files/index.ts";
import {
  type Feeding,
  type RefusedEdition,
  type ShelfOptions,
  type ShelfOrigin,
  type StartedFeed,
  suspended,
} from "../../flags/index.ts";
import { compareSets } from "../../insight/index.ts";
import {
  calledEdition,
  callingOff,
  type Hearing,
  IncompleteFault,
  type Place,
  reasonOf,
  ShelfFault,
} from "../../shelf/index.ts";
import { LocalLayers } from "../local-layers.ts";
import { errorsIn, putIntoForce } from "../put-into-force.ts";
import type { EditionReader, Found, ReadEdition } from "./edition-reader.ts";
import type { FileStore } from "./file-store.ts";
import { GoodCopies } from "./good-copies.ts";
import { originOf } from "./origin-of.ts";
import { nextWait } from "./pace.ts";
import { Presence } from "./presence.ts";
import type { Start } from "./starting-point.ts";

/** Milliseconds without a word of the shelf after which a problem is told. */
const defaultStaleAfter = 300_000;

/** What a timer can hold, in milliseconds. */
const longestTimer = 2 ** 31;

/** Messages of one outage that are told; the others say the same in other words. */
const maxTold = 5;

export interface Following {
  readonly place: Place;
  readonly options: ShelfOptions<unknown>;
  readonly store: FileStore;
  readonly reader: EditionReader;
  readonly keep: Keep | undefined;
  readonly feeding: Feeding;
  readonly start: Start;
}

/** Feeds flags from a shelf: looks for its newest edition, and hands what it says to the store. */
export class ShelfFeed implements StartedFeed {
  readonly #following: Following;
  readonly #feeding: Feeding;
  readonly #local: LocalLayers;
  readonly #copies: GoodCopies;
  readonly #presence: Presence;
  readonly #calledOff = callingOff();
  #hearing: Hearing | undefined;
  #looking: Promise<void> | undefined;
  /** Something was heard while a look was under way. */
  #lookAgain = false;
  #timer: NodeJS.Timeout | undefined;
  #staleTimer: NodeJS.Timeout | undefined;
  /** What the shelf says of itself while it fails. */
  readonly #told = new Set<string>();
  #incomplete = 0;
  /** Whether the edition that was read last is in force. */
  #isNewest: boolean;
  /** The number of the edition that came into force last. */
  #edition: number;
  #since = new Date().toISOString();

  constructor(following: Following) {
    const { place, options, store, keep, feeding, start } = following;
    this.#following = following;
    this.#feeding = feeding;
    this.#local = new LocalLayers(feeding);
    this.#copies = new GoodCopies(keep, store, feeding.report);
    this.#isNewest = !start.kept;
    if (start.why !== undefined) this.#told.add(start.why);
    this.#edition = start.read.edition.number;
    this.#presence = new Presence(place, options, this.#standing, feeding.report);
  }

  async start(): Promise<void> {
    const { place, options, reader, start } = this.#following;
    for (const note of start.notes) this.#feeding.report(note);
    this.#local.useVariable(options.overrides);
    await this.#readLocalOverrides();
    putTextsAway(start.read.loaded.content);
    if (!start.kept) await this.#copies.keep(start.read.edition, reader.seen);
    this.#presence.start();
    this.#hearing = place.hear?.({
      changed: () => this.#look(),
      failed: (reason) => this.#tell(reason),
    });
    this.#expectWord();
    this.#schedule(start.kept ? 0 : nextWait(place.every, undefined, 0));
  }

  async close(): Promise<void> {
    this.#calledOff.abort();
    clearTimeout(this.#timer);
    clearTimeout(this.#staleTimer);
    await this.#hearing?.close();
    await this.#looking;
    await this.#presence.leave();
    this.#following.reader.close();
    await this.#following.store.close();
  }

  get #isClosed(): boolean {
    return this.#calledOff.signal.aborted;
  }

  #schedule(milliseconds: number): void {
    clearTimeout(this.#timer);
    if (this.#isClosed) return;
    this.#timer = setTimeout(() => this.#look(), milliseconds).unref();
  }

  /** One look at a time; what is heard meanwhile is looked for once more. */
  #look(): void {
    if (this.#isClosed) return;
    this.#lookAgain = this.#looking !== undefined;
    if (this.#looking) return;
    clearTimeout(this.#timer);
    this.#looking = this.#lookOnce().then((wait) => {
      this.#looking = undefined;
      if (this.#lookAgain) this.#look();
      else this.#schedule(wait);
    });
  }

  /** @returns how long to wait before the next look */
  async #lookOnce(): Promise<number> {
    const { every } = this.#following.place;
    try {
      await this.#readLocalOverrides();
      const found = await this.#following.reader.look(this.#calledOff.signal);
      this.#incomplete = 0;
      await this.#take(found);
      return nextWait(every, found.wait, 0);
    } catch (error) {
      if (this.#isClosed) return every;
      this.#tell(error instanceof ShelfFault ? error.message : `The shelf cannot be read: ${reasonOf(error)}.`);
      this.#incomplete = error instanceof IncompleteFault ? this.#incomplete + 1 : 0;
      return nextWait(every, error instanceof ShelfFault ? error.wait : undefined, this.#incomplete);
    }
  }

  async #take(found: Found): Promise<void> {
    if (found.kind === "empty") return this.#tell("The shelf holds no edition any more.");
    if (found.kind === "refused") return this.#refuse(found.edition, found.why);
    if (found.kind === "edition") await this.#putIntoForce(found);
    else if (this.#isNewest) this.#confirm();
    if (this.#isNewest) await this.#copies.retry();
  }

  async #putIntoForce(found: ReadEdition): Promise<void> {
    const { edition, loaded } = found;
    const outcome = await this.#outcomeOf(found);
    if (outcome === "closed") return;
    this.#isNewest = outcome === "taken";
    if (outcome === "refused") {
      const [first] = errorsIn(loaded.problems);
      return this.#refuse(edition.number, first?.message ?? "it does not hold this environment", true);
    }
    if (outcome !== "taken") return this.#refuse(edition.number, outcome.why);
    this.#edition = edition.number;
    this.#since = new Date().toISOString();
    this.#confirm();
    this.#presence.say(this.#standing);
    putTextsAway(loaded.content);
    await this.#copies.keep(edition, this.#following.reader.seen);
  }

  /** What became of an edition on its way into force; why it is not, where this program will not have it. */
  async #outcomeOf({ edition, loaded }: ReadEdition) {
    const { place, options } = this.#following;
    this.#suspendFirst(loaded.suspensions);
    try {
      return await putIntoForce(this.#feeding, {
        loaded,
        called: place.called,
        environment: options.environment,
        suspensions: () => loaded.suspensions,
        origin: () => originOf(place, edition),
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
    if (!isTold) this.#tell(`${calledEdition(edition)} is refused: ${why}.`);
    const { origin } = this.#feeding.store.state;
    if (origin.kind === "shelf" && !isSame(origin.refused, { edition, why }))
      this.#useOrigin({ ...origin, refused: { edition, why } });
    this.#presence.say(this.#standing);
  }

  /** The shelf says that what is in force is its newest. */
  #confirm(): void {
    this.#told.clear();
    const { origin } = this.#feeding.store.state;
    if (origin.kind === "shelf") {
      const { refused: _, ...sound } = origin;
      this.#useOrigin({ ...sound, kept: false, confirmed: new Date() });
    }
    this.#expectWord();
  }

  #useOrigin(origin: ShelfOrigin): void {
    this.#feeding.store.put({ ...this.#feeding.store.state, origin });
  }

  get #standing() {
    const { origin } = this.#feeding.store.state;
    const refused = origin.kind === "shelf" ? origin.refused : undefined;
    return { edition: this.#edition, refused, since: this.#since };
  }

  /** Says once of an outage what there is to say. */
  #tell(message: string): void {
    if (this.#isClosed || this.#told.has(message) || this.#told.size >= maxTold) return;
    this.#told.add(message);
    this.#feeding.report(message);
  }

  #expectWord(): void {
    const { options, place } = this.#following;
    const { staleAfter = defaultStaleAfter } = options;
    clearTimeout(this.#staleTimer);
    if (this.#isClosed || staleAfter >= longestTimer) return;
    this.#staleTimer = setTimeout(() => {
      const { origin } = this.#feeding.store.state;
      const edition = origin.kind === "shelf" ? ` Edition ${origin.edition} goes on.` : "";
      this.#feeding.report(`${place.called} has confirmed nothing for ${staleAfter / 1_000} seconds.${edition}`);
    }, staleAfter).unref();
  }

  async #readLocalOverrides(): Promise<void> {
    const { localOverrides } = this.#following.options;
    if (localOverrides === undefined) return;
    const path = resolve(localOverrides);
    const name = fileName(basename(path));
    if (typeof name !== "string") return;
    const { entries } = await new Disk(dirname(path)).some([name]);
    await this.#local.useFile(entries.get(name));
  }
}

function isSame(one: RefusedEdition | undefined, other: RefusedEdition): boolean {
  return one?.edition === other.edition && one?.why === other.why;
}
