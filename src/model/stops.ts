import type { Place } from "../problems/index.ts";

/** An emergency stop: where it holds, and what it says for people. */
export interface Stop {
  readonly place: Place;
  readonly since: string | undefined;
  readonly who: string | undefined;
  readonly note: string | undefined;
  /** In these environments only. */
  readonly in: readonly string[] | undefined;
  /** In every environment but these, those that come later included. */
  readonly except: readonly string[] | undefined;
}

/** The emergency stops of a flag: it gives its safe value wherever one of them holds. */
export interface Suspension {
  readonly flag: string;
  readonly place: Place;
  /** One at least; each was made by somebody, and is ended by itself. */
  readonly stops: readonly Stop[];
}

/** The first of a flag's stops that holds in an environment. */
export function stopIn({ stops }: Suspension, environment: string | undefined): Stop | undefined {
  return stops.find((stop) => holdsIn(stop, environment));
}

/** Does a stop hold in an environment? */
export function holdsIn({ in: only, except }: Stop, environment: string | undefined): boolean {
  if (environment === undefined) return only === undefined;
  return (only?.includes(environment) ?? true) && !except?.includes(environment);
}

/** A stop as `suspended.yaml` holds it. */
export function writtenStop({ since, who, note, in: only, except }: Stop): object {
  const members = Object.entries({ since, who, note, in: only, except });
  return Object.fromEntries(members.filter(([, value]) => value !== undefined));
}

/** Suspensions by flag. */
export type Suspensions = ReadonlyMap<string, Suspension>;

/** What either of two says: a flag is stopped wherever one of its stops holds. */
export function joinedStops(one: Suspensions, other: Suspensions): Suspensions {
  if (other.size === 0) return one;
  if (one.size === 0) return other;
  const joined = new Map(one);
  for (const [flag, suspension] of other) {
    const before = joined.get(flag);
    joined.set(flag, before ? { ...before, stops: withoutTwins([...before.stops, ...suspension.stops]) } : suspension);
  }
  return joined;
}

function withoutTwins(stops: readonly Stop[]): Stop[] {
  return [...new Map(stops.map((stop) => [JSON.stringify(writtenStop(stop)), stop])).values()];
}
