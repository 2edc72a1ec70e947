import { FlagsError, requireEnvironment, type ShelfOptions, summariseProblems } from "../../flags/index.ts";
import {
  calledEdition,
  type Edition,
  endless,
  type Place,
  reasonOf,
  ShelfFault,
  type ShelfStops,
} from "../../shelf/index.ts";
import type { CurrentStops } from "./current-stops.ts";
import type { EditionReader, ReadEdition } from "./edition-reader.ts";
import type { KeptEditions, KeptStops } from "./kept-editions.ts";
import type { FoundList } from "./newest-list.ts";
import type { ShelfLists } from "./shelf-lists.ts";

/** How often a start that waits looks again, in milliseconds. */
const againAfter = 500;

/** What a start stands on. */
export interface Start {
  readonly read: ReadEdition;
  readonly stops: CurrentStops;
  /** The list of stops that the shelf has shown, as it was signed. */
  readonly stopsList: KeptList | undefined;
  /** Whether it is a copy. */
  readonly kept: boolean;
  readonly notes: readonly string[];
  /** Why it is a copy. */
  readonly why?: string;
  /** Where it is a copy: the newest edition, of which the list is verified; its files could not be had, or not be used. */
  readonly wanted?: Edition | undefined;
}

/** A list as it is kept. */
export interface KeptList {
  readonly number: number;
  readonly text: string;
}

/** Where a start looks. */
export interface Starting {
  readonly place: Place;
  readonly lists: ShelfLists;
  readonly reader: EditionReader;
  readonly kept: KeptEditions | undefined;
  readonly keptStops: KeptStops;
  readonly options: ShelfOptions<unknown>;
}

/** The newest edition of a shelf, or the newest good copy. @throws {FlagsError} that says why there is neither */
export async function startingPoint(starting: Starting): Promise<Start> {
  const { reader, kept, place, options } = starting;
  const { wait = false } = options;
  const until = wait === true ? Number.POSITIVE_INFINITY : performance.now() + Number(wait);
  const looks = new FirstLooks(starting);
  let copy: ReadEdition | "none" | undefined;
  for (;;) {
    const found = await looks.look();
    const fault = typeof found === "string" ? found : faultOf(found, place, options);
    const { stops, stopsList, notes } = looks;
    if (typeof found !== "string" && fault === undefined) return { read: found, stops, stopsList, kept: false, notes };
    copy ??= (await copyOf(reader, kept, place, options)) ?? "none";
    if (copy !== "none") {
      const note = `${fault} The copy of edition ${copy.edition.number} in “${options.lastGood}” is in force.`;
      return { read: copy, stops, stopsList, kept: true, notes: [...notes, note], why: fault!, wanted: looks.wanted };
    }
    if (performance.now() >= until) {
      const none =
        options.lastGood === undefined ? "and no lastGood is given" : `and “${options.lastGood}” holds no copy`;
      throw new FlagsError(`${fault} Nothing can be started from, ${none}.`);
    }
    await new Promise((resolve) => setTimeout(resolve, againAfter));
  }
}

/** Looks at a shelf until there is something to start from; the stops first. */
class FirstLooks {
  readonly #starting: Starting;
  readonly stops: CurrentStops;
  readonly notes: string[] = [];
  stopsList: KeptList | undefined;
  /** The newest edition of which the list is verified. */
  wanted: Edition | undefined;

  constructor(starting: Starting) {
    this.#starting = starting;
    this.stops = starting.keptStops.standing;
  }

  /** The newest edition, or a sentence on why there is none. */
  async look(): Promise<ReadEdition | string> {
    const { lists, reader } = this.#starting;
    try {
      const both = lists.look(endless());
      // Who has never seen a list of stops does not go on without one that cannot be had.
      await this.#lookAtStops(both.stops);
      const none = this.#want(await both.edition);
      if (none !== undefined) return none;
      const why = this.stops.whyNotYet(this.wanted!) ?? this.#whyTooOld(this.wanted!);
      return why ?? (await reader.read(this.wanted!, endless()));
    } catch (error) {
      return error instanceof ShelfFault ? error.message : `The shelf cannot be read: ${reasonOf(error)}.`;
    }
  }

  async #lookAtStops(looking: Promise<FoundList<ShelfStops>>): Promise<void> {
    const found = await looking.catch((error: unknown) => {
      if (this.stops.number === 0) throw error;
      return undefined;
    });
    if (found?.kind === "list") {
      this.stops.take(found);
      this.stopsList = { number: found.list.number, text: found.text };
    }
    if (found?.kind === "refused") this.#note(stopsRefused(found));
  }

  /** Who has seen nothing yet can be told how new a shelf must be. */
  #whyTooOld({ number }: Edition): string | undefined {
    const { edition = 0, stops = 0 } = this.#starting.options.notBefore ?? {};
    if (number < edition) return `The shelf shows edition ${number}, and notBefore asks for ${edition} or a later one.`;
    if (this.stops.number >= stops) return undefined;
    const shown = this.stops.number === 0 ? "no list of stops" : `list ${this.stops.number} of the stops`;
    return `The shelf shows ${shown}, and notBefore asks for list ${stops} or a later one.`;
  }

  #want(found: FoundList<Edition>): string | undefined {
    if (found.kind === "list") this.wanted = found.list;
    if (found.kind === "refused") return `${calledEdition(found.number)} is refused: ${found.why}.`;
    return this.wanted ? undefined : "The shelf holds no edition.";
  }

  #note(note: string): void {
    if (!this.notes.includes(note)) this.notes.push(note);
  }
}

/** That a list of stops is not taken, and why. */
export function stopsRefused({ number, why }: { readonly number: number | undefined; readonly why: string }): string {
  const which = number === undefined ? "The list of stops" : `List ${number} of the stops`;
  return `${which} is refused: ${why}. What was stopped stays stopped.`;
}

function faultOf(
  { edition, loaded }: ReadEdition,
  { called }: Place,
  { environment }: ShelfOptions<unknown>,
): string | undefined {
  if (!loaded.definitions) return `Edition ${edition.number} cannot be used: ${summariseProblems(loaded.problems)}`;
  try {
    requireEnvironment(loaded.definitions, environment, called);
    return undefined;
  } catch (error) {
    return reasonOf(error);
  }
}

async function copyOf(
  reader: EditionReader,
  kept: KeptEditions | undefined,
  place: Place,
  options: ShelfOptions<unknown>,
): Promise<ReadEdition | undefined> {
  for (const edition of kept?.editions ?? []) {
    const copy = await reader.readKept(edition);
    if (copy && faultOf(copy, place, options) === undefined) return copy;
  }
  return undefined;
}
