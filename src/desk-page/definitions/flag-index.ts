import { type AgendaEntry, agendaOf } from "../../insight/index.ts";
import { conditionsOf, type Definitions, type FlagDefinition } from "../../model/index.ts";

/** The flags of a set in order, and what they can be found by. */
export class FlagIndex {
  readonly flags: readonly FlagDefinition[];
  readonly #texts: readonly string[];

  constructor({ flags }: Definitions) {
    this.flags = [...flags.values()].sort((a, b) => (a.name < b.name ? -1 : 1));
    this.#texts = this.flags.map(textOf);
  }

  /** The flags that hold every word, in their names, what is said of them, owners or conditions. */
  find(text: string): readonly FlagDefinition[] {
    const words = text.toLowerCase().split(/\s+/).filter(Boolean);
    if (words.length === 0) return this.flags;
    return this.flags.filter((_, i) => words.every((word) => this.#texts[i]!.includes(word)));
  }
}

function textOf(flag: FlagDefinition): string {
  const { about = "", owner = "", lifespan = "" } = flag.source;
  const conditions = conditionsOf(flag).map(({ text }) => text);
  return [flag.name, about, owner, lifespan, ...conditions].join("\n").toLowerCase();
}

const indexes = new WeakMap<Definitions, FlagIndex>();

/** The index of a set, made once. */
export function indexOf(definitions: Definitions): FlagIndex {
  let index = indexes.get(definitions);
  if (!index) {
    index = new FlagIndex(definitions);
    indexes.set(definitions, index);
  }
  return index;
}

/** What is to come, as it was looked up last: dated changes do not come and go with every second. */
interface Outlook {
  readonly from: number;
  readonly entries: readonly AgendaEntry[];
  readonly byFlag: ReadonlyMap<string, AgendaEntry>;
}

const outlooks = new WeakMap<Definitions, Outlook>();
const fresh = 60_000;

/** The dated changes to come, and the next of each flag: its own, or that of a window that it goes by. */
export function outlookOf(definitions: Definitions, at: number): Outlook {
  const known = outlooks.get(definitions);
  const passed = known?.entries.find(({ kind }) => kind !== "review")?.at ?? Number.POSITIVE_INFINITY;
  if (known && at >= known.from && at - known.from < fresh && at < passed) return known;
  const entries = agendaOf(definitions, { from: at });
  const byFlag = new Map<string, AgendaEntry>();
  for (const entry of entries) {
    if (entry.kind === "review") continue;
    for (const flag of entry.part === "flag" ? [entry.name] : entry.flags)
      if (!byFlag.has(flag)) byFlag.set(flag, entry);
  }
  const outlook = { from: at, entries, byFlag };
  outlooks.set(definitions, outlook);
  return outlook;
}
