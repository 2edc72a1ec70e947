import { FlagsError, requireEnvironment, type ShelfOptions, summariseProblems } from "../../flags/index.ts";
import { calledEdition, endless, type Place, reasonOf, ShelfFault } from "../../shelf/index.ts";
import type { EditionReader, Found, ReadEdition } from "./edition-reader.ts";
import type { KeptEditions } from "./kept-editions.ts";

/** How often a start that waits looks again, in milliseconds. */
const againAfter = 500;

/** What a start stands on. */
export interface Start {
  readonly read: ReadEdition;
  /** Whether it is a copy. */
  readonly kept: boolean;
  readonly notes: readonly string[];
  /** Why it is a copy. */
  readonly why?: string;
}

/** The newest edition of a shelf, or the newest good copy. @throws {FlagsError} that says why there is neither */
export async function startingPoint(
  place: Place,
  reader: EditionReader,
  kept: KeptEditions | undefined,
  options: ShelfOptions<unknown>,
): Promise<Start> {
  const { wait = false } = options;
  const until = wait === true ? Number.POSITIVE_INFINITY : performance.now() + Number(wait);
  let copy: ReadEdition | "none" | undefined;
  for (;;) {
    const found = await lookedAt(reader);
    if (typeof found !== "string") {
      const fault = faultOf(found, place, options);
      if (fault === undefined) return { read: found, kept: false, notes: [] };
    }
    const why = typeof found === "string" ? found : faultOf(found, place, options)!;
    copy ??= (await copyOf(reader, kept, place, options)) ?? "none";
    if (copy !== "none") {
      const note = `${why} The copy of edition ${copy.edition.number} in “${options.lastGood}” is in force.`;
      return { read: copy, kept: true, notes: [note], why };
    }
    if (performance.now() >= until) {
      const none =
        options.lastGood === undefined ? "and no lastGood is given" : `and “${options.lastGood}” holds no copy`;
      throw new FlagsError(`${why} Nothing can be started from, ${none}.`);
    }
    await new Promise((resolve) => setTimeout(resolve, againAfter));
  }
}

/** The newest edition, or a sentence on why there is none. */
async function lookedAt(reader: EditionReader): Promise<ReadEdition | string> {
  let found: Found;
  try {
    found = await reader.look(endless());
  } catch (error) {
    return error instanceof ShelfFault ? error.message : `The shelf cannot be read: ${reasonOf(error)}.`;
  }
  if (found.kind === "edition") return found;
  if (found.kind === "refused") return `${calledEdition(found.edition)} is refused: ${found.why}.`;
  return found.kind === "same" ? "The newest edition still cannot be used." : "The shelf holds no edition.";
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
