import {
  type Definitions,
  type FlagDefinition,
  flagIn,
  flagsBehind,
  Graph,
  nodeKey,
  partsOf,
  rangeAt,
  ruleCalled,
  type WindowDefinition,
} from "../model/index.ts";
import { show, showPercent } from "../values/index.ts";

/** Something that will change by itself, or that somebody must look at by then. */
export interface AgendaEntry {
  /** Epoch milliseconds; of a review, the first midnight in UTC of its day. */
  readonly at: number;
  readonly kind: "share" | "window-opens" | "window-shuts" | "review";
  readonly part: "flag" | "window";
  readonly name: string;
  /** What happens, without the name. */
  readonly words: string;
  /** The zone in which the instant was written; undefined where it carries its own offset. */
  readonly zone: string | undefined;
  /** The environments that it concerns; every one if undefined. */
  readonly environments: readonly string[] | undefined;
  /** The flags that change with a window. */
  readonly flags: readonly string[];
  /** For a window that recurs by its opening hours: those hours. Only its next change is listed. */
  readonly recurs: string | undefined;
}

/** Which changes to come are listed. */
export interface AgendaOptions {
  /** From this instant on, epoch milliseconds. */
  readonly from: number;
  /** One environment; every one if left out. */
  readonly environment?: string | undefined;
}

/** The dated changes to come, in order: steps of rising shares, openings and closings of windows, reviews. */
export function agendaOf(definitions: Definitions, { from, environment }: AgendaOptions): AgendaEntry[] {
  return new Agenda(definitions, environment).from(from);
}

/** The dated changes of a set, gathered once and asked for from any instant on. */
export class Agenda {
  readonly #ofFlags: readonly AgendaEntry[];
  readonly #windows: readonly { readonly window: WindowDefinition; readonly flags: string[] }[];

  /** @param environment one environment; every one if left out */
  constructor(definitions: Definitions, environment?: string) {
    const uses = definitions.windows.size === 0 ? new Map() : new Graph(definitions).uses();
    this.#ofFlags = [...definitions.flags.values()].flatMap((flag) => [
      ...risingEntries(flag, definitions, environment),
      ...reviewEntries(flag),
    ]);
    this.#windows = [...definitions.windows.values()].map((window) => ({
      window,
      flags: [...flagsBehind([nodeKey("window", window.name)], uses)].sort(),
    }));
  }

  /** @param at epoch milliseconds */
  from(at: number): AgendaEntry[] {
    const entries = [...this.#ofFlags];
    for (const { window, flags } of this.#windows) entries.push(...windowEntries(window, at, flags));
    const dayBegan = Math.floor(at / day) * day;
    return entries
      .filter((entry) => entry.at >= (entry.kind === "review" ? dayBegan : at))
      .sort((a, b) => a.at - b.at || (a.name < b.name ? -1 : a.name > b.name ? 1 : 0));
  }
}

const day = 86_400_000;

/** A step is told once for all environments in which it comes about. */
function risingEntries(flag: FlagDefinition, definitions: Definitions, environment: string | undefined): AgendaEntry[] {
  const all = environment === undefined ? [...definitions.environments.keys()] : [environment];
  const found = new Map<string, AgendaEntry & { readonly environments: string[] }>();
  for (const name of all.length > 0 ? all : [undefined]) {
    for (const entry of risingIn(flag, name)) {
      const key = `${entry.at} ${entry.words}`;
      const known = found.get(key);
      if (known && name !== undefined) known.environments.push(name);
      else if (!known) found.set(key, { ...entry, environments: name === undefined ? [] : [name] });
    }
  }
  return [...found.values()].map((entry) => ({
    ...entry,
    environments: entry.environments.length === all.length ? undefined : entry.environments,
  }));
}

function risingIn(flag: FlagDefinition, environment: string | undefined): AgendaEntry[] {
  return flagIn(flag, environment).rules.flatMap((rule) => {
    // Most shares do not rise, and need not be resolved to know it.
    const share = typeof rule.source.share === "object" ? rule.division?.share : undefined;
    if (!share?.rises) return [];
    const split = rule.division?.split;
    const gets = split
      ? partsOf(split)
          .map(({ variant }) => variant)
          .join(", ")
      : show(rule.gives, 40);
    return share.steps.map(({ high, from }): AgendaEntry => {
      const before = rangeAt(share.steps, from - 1).high;
      const verb = high > before ? "rises" : high < before ? "falls" : "stays";
      return {
        at: from,
        kind: "share",
        part: "flag",
        name: flag.name,
        words: `${verb} from ${showPercent(before)} to ${showPercent(high)} for ${gets} (${ruleCalled(rule)})`,
        zone: share.zone,
        environments: undefined,
        flags: [],
        recurs: undefined,
      };
    });
  });
}

function reviewEntries({ name, source }: FlagDefinition): AgendaEntry[] {
  const { "review-by": date, owner, lifespan } = source;
  if (date === undefined) return [];
  const who = owner === undefined ? "" : ` by ${owner}`;
  const words = lifespan === "passing" ? `to be reviewed${who}, and removed if it is done` : `to be reviewed${who}`;
  return [
    {
      at: Date.parse(`${date}T00:00Z`),
      kind: "review",
      part: "flag",
      name,
      words,
      zone: undefined,
      environments: undefined,
      flags: [],
      recurs: undefined,
    },
  ];
}

/** Every change of a dated window from an instant on; of one that recurs by its hours only the first. */
function windowEntries({ name, window, hours }: WindowDefinition, first: number, flags: string[]): AgendaEntry[] {
  const before = first - 1;
  const { from, zone } = window.parts;
  const entry = (at: number): AgendaEntry => {
    const open = window.isOpen(at);
    return {
      part: "window",
      name,
      zone,
      environments: undefined,
      flags,
      at,
      kind: open ? "window-opens" : "window-shuts",
      words: open ? "opens" : "shuts",
      recurs: hours,
    };
  };
  if (hours !== undefined) {
    const next = window.nextChange(before);
    return next === undefined ? [] : [entry(next)];
  }
  const entries = from !== undefined && from >= first && window.isOpen(from) ? [entry(from)] : [];
  let at = Math.max(before, from ?? before);
  for (let i = 0; i < maxChanges; i++) {
    const next = window.nextChange(at);
    if (next === undefined) break;
    entries.push(entry(next));
    at = next;
  }
  return entries;
}

/** A dated window changes at its bounds and on its excepted dates. */
const maxChanges = 100;
