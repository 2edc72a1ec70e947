import { holdsIn, type Stop } from "../model/index.ts";
import type { Place } from "../problems/index.ts";
import { NothingToChange } from "./change-folder.ts";

// What stopping and starting again does to the stops of one flag, in `suspended.yaml` and at a shelf alike.

/** Who stops a flag, where and why. */
export interface StopRequest {
  readonly flag: string;
  /** One environment; every one if left out. */
  readonly environment?: string | undefined;
  readonly who?: string | undefined;
  readonly note?: string | undefined;
}

const nowhere: Place = { file: "", path: [] };

/**
 * @param at epoch milliseconds
 * @throws {NothingToChange} where it is stopped there already
 */
export function withStop(
  stops: readonly Stop[],
  { flag, environment, who, note }: StopRequest,
  at: number,
): readonly Stop[] {
  if (stops.some(({ in: only, except }) => only === undefined && except === undefined))
    throw new NothingToChange(`${flag} is suspended in every environment already.`);
  if (environment !== undefined && stops.some((stop) => holdsIn(stop, environment)))
    throw new NothingToChange(`${flag} is suspended in ${environment} already.`);
  const since = `${new Date(at).toISOString().slice(0, 16)}Z`;
  const only = environment === undefined ? undefined : [environment];
  return [
    ...stops,
    { place: nowhere, since, who: who || undefined, note: note || undefined, in: only, except: undefined },
  ];
}

/**
 * The stops that are left when a flag starts again, in one environment or in every one. One that holds everywhere goes on
 * to hold everywhere else, in environments that come later too.
 *
 * @throws {NothingToChange} where it is not stopped there
 */
export function withoutStop(
  stops: readonly Stop[],
  { flag, environment }: Pick<StopRequest, "flag" | "environment">,
): readonly (Stop | undefined)[] {
  if (environment === undefined) return stops.map(() => undefined);
  if (!stops.some((stop) => holdsIn(stop, environment)))
    throw new NothingToChange(`${flag} is not suspended in ${environment}.`);
  return stops.map((stop) => startedIn(stop, environment));
}

function startedIn(stop: Stop, environment: string): Stop | undefined {
  if (!holdsIn(stop, environment)) return stop;
  const { in: only, except = [] } = stop;
  if (only === undefined) return { ...stop, except: [...except, environment] };
  const left = only.filter((name) => name !== environment);
  return left.length === 0 ? undefined : { ...stop, in: left };
}
