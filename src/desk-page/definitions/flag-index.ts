import { type Signal, signal } from "@preact/signals";
import { Agenda, type AgendaEntry } from "../../insight/index.ts";
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

/** What is to come from some instant on, and the next of each flag: its own, or that of a window that it goes by. */
interface Outlook {
  readonly from: number;
  readonly entries: readonly AgendaEntry[];
  readonly byFlag: ReadonlyMap<string, AgendaEntry>;
}

/** The agenda of a set takes a while to gather; the page is drawn before it is there, and once more with it. */
const agendas = new WeakMap<Definitions, Signal<Agenda | undefined>>();
/** From the now of the days, and from the instant in question. */
const maxOutlooks = 4;
const outlooks = new WeakMap<Agenda, Outlook[]>();
const fresh = 60_000;
const none: Outlook = { from: 0, entries: [], byFlag: new Map() };

/** The dated changes to come; none while they are being gathered. */
export function outlookOf(definitions: Definitions, at: number): Outlook {
  const agenda = agendaOf(definitions).value;
  if (!agenda) return none;
  const kept = outlooks.get(agenda) ?? [];
  const known = kept.find((each) => at >= each.from && at - each.from < fresh && at < nextOf(each));
  if (known) return known;
  const entries = agenda.from(at);
  const byFlag = new Map<string, AgendaEntry>();
  for (const entry of entries) {
    if (!isToCome(entry, at)) continue;
    for (const flag of entry.part === "flag" ? [entry.name] : entry.flags)
      if (!byFlag.has(flag)) byFlag.set(flag, entry);
  }
  const outlook = { from: at, entries, byFlag };
  outlooks.set(agenda, [outlook, ...kept].slice(0, maxOutlooks));
  return outlook;
}

function agendaOf(definitions: Definitions): Signal<Agenda | undefined> {
  let agenda = agendas.get(definitions);
  if (!agenda) {
    agenda = signal<Agenda | undefined>(undefined);
    agendas.set(definitions, agenda);
    const gathered = agenda;
    requestAnimationFrame(() =>
      setTimeout(() => {
        gathered.value = new Agenda(definitions);
      }),
    );
  }
  return agenda;
}

function nextOf({ from, entries }: Outlook): number {
  return entries.find((entry) => isToCome(entry, from))?.at ?? Number.POSITIVE_INFINITY;
}

/** What comes about at the very instant is so by then. */
function isToCome({ kind, at }: AgendaEntry, from: number): boolean {
  return kind !== "review" && at > from;
}
