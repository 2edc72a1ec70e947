import { percentAt } from "../judge/rule.ts";
import { effectiveFlag } from "../model/effective.ts";
import { risingSteps } from "../model/read-rising.ts";
import type { Definitions, FlagDefinition, WindowDefinition } from "../model/types.ts";
import { flagsBehind, usesOf } from "../model/uses.ts";
import { show } from "../values/data.ts";
import { showPercent } from "../values/percent.ts";

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

export interface AgendaOptions {
  /** From this instant on, epoch milliseconds. */
  readonly from: number;
  /** One environment; every one if left out. */
  readonly environment?: string | undefined;
}

/** The dated changes to come, in order: steps of rising shares, openings and closings of windows, reviews. */
export function agendaOf(definitions: Definitions, { from, environment }: AgendaOptions): AgendaEntry[] {
  const uses = usesOf(definitions);
  const entries: AgendaEntry[] = [];
  for (const flag of definitions.flags.values()) {
    entries.push(...risingEntries(flag, definitions, environment), ...reviewEntries(flag));
  }
  for (const window of definitions.windows.values()) {
    const flags = [...flagsBehind([`window:${window.name}`], uses)].sort();
    entries.push(...windowEntries(window, from, flags));
  }
  const dayBegan = Math.floor(from / day) * day;
  return entries
    .filter(({ at, kind }) => at >= (kind === "review" ? dayBegan : from))
    .sort((a, b) => a.at - b.at || (a.name < b.name ? -1 : a.name > b.name ? 1 : 0));
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
  return effectiveFlag(flag, environment).rules.flatMap(({ name, share, give, split }, index) => {
    if (typeof share !== "object") return [];
    const steps = risingSteps(share, flag.defaults);
    const gets = split ? "its split" : show(give, 40);
    const rule = name === undefined ? `rule ${index + 1}` : `“${name}”`;
    return steps.map(({ percent, from }): AgendaEntry => {
      const before = percentAt(steps, from - 1);
      const verb = percent > before ? "rises" : percent < before ? "falls" : "stays";
      return {
        at: from,
        kind: "share",
        part: "flag",
        name: flag.name,
        words: `${verb} from ${showPercent(before)} to ${showPercent(percent)} for ${gets} (${rule})`,
        zone: share.zone ?? flag.defaults.zone,
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

/** Both bounds of a dated window; of one that recurs, also its next change inside them. */
function windowEntries({ name, window, hours }: WindowDefinition, now: number, flags: string[]): AgendaEntry[] {
  const { from, until, zone } = window.parts;
  const common = { part: "window" as const, name, zone, environments: undefined, flags };
  const entry = (at: number, open: boolean, recurs: string | undefined): AgendaEntry => ({
    ...common,
    at,
    kind: open ? "window-opens" : "window-shuts",
    words: open ? "opens" : "shuts",
    recurs,
  });
  if (hours === undefined) {
    return [...(from === undefined ? [] : [entry(from, true, undefined)]), ...exceptions(entry, now, window, until)];
  }
  const next = window.nextChange(now);
  return next === undefined ? [] : [entry(next, window.isOpen(next), hours)];
}

/** A dated window is also shut on its excepted dates; the changes are walked through, as far as there are any. */
function exceptions(
  entry: (at: number, open: boolean, recurs: string | undefined) => AgendaEntry,
  now: number,
  window: WindowDefinition["window"],
  until: number | undefined,
): AgendaEntry[] {
  const entries: AgendaEntry[] = [];
  const { from = Number.NEGATIVE_INFINITY } = window.parts;
  let at = Math.max(now, from);
  for (let i = 0; i < 100; i++) {
    const next = window.nextChange(at);
    if (next === undefined || next === until) break;
    entries.push(entry(next, window.isOpen(next), undefined));
    at = next;
  }
  if (until !== undefined) entries.push(entry(until, false, undefined));
  return entries;
}
