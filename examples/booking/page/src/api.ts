import { pageVersion } from "../../server/page-catalogue.ts";
import type { Crossing as Sailing } from "../../server/timetable.ts";

export interface Session {
  readonly traveller: { readonly id: string; readonly name: string; readonly plan: string } | null;
  readonly today: string;
  /** The time of the service in words; null where it is the real one. */
  readonly time: string | null;
  readonly developer: boolean;
  /** Where the crew look at the flags; null for everybody else. */
  readonly desk: string | null;
}

/** A sailing as the service knows it, with what it costs this party and which seats are gone. */
export interface Crossing extends Sailing {
  readonly quote: { readonly crowns: number; readonly engine: string };
  readonly taken: readonly string[];
}

export interface Hold {
  readonly id: string;
  readonly seat: string;
  readonly crowns: number;
  readonly until: number;
  readonly state: "held" | "paid" | "checked-in";
  readonly lane?: number;
}

/** What the service says no to, in its own words. */
export class Refused extends Error {}

export async function ask<T>(path: string, init: { method?: string; body?: unknown } = {}): Promise<T> {
  const response = await fetch(path, {
    method: init.method ?? (init.body === undefined ? "GET" : "POST"),
    headers: {
      "app-version": pageVersion,
      ...(init.body === undefined ? {} : { "content-type": "application/json" }),
    },
    ...(init.body === undefined ? {} : { body: JSON.stringify(init.body) }),
  });
  if (response.ok) return (await response.json()) as T;
  const problem = (await response.json().catch(() => ({}))) as { message?: string };
  throw new Refused(problem.message ?? `The desk does not answer as it should (${response.status}).`);
}
