import { readSuspensions, type Suspension, writtenStop } from "../model/index.ts";
import { Problems } from "../problems/index.ts";
import { own } from "../values/index.ts";
import { formVersion, instant, payloadIn, setName, textOf, wholeNumberOf } from "./list-text.ts";

/** The emergency stops of a shelf: a list of its own beside the editions, written by stoppers alone. */
export interface ShelfStops {
  /** The name of the definition set. */
  readonly set: string;
  /** Grows with every change of the stops of a set. */
  readonly number: number;
  /** When it was changed, by the stopper's clock: an instant of RFC 3339. */
  readonly changed: string;
  /** What is stopped, by flag. */
  readonly suspended: ReadonlyMap<string, Suspension>;
}

/** What stops are called as a file. */
export const stopsFile = "stops.json";

/** The payload of a list of stops. */
export function stopsPayload({ set, number, changed, suspended }: ShelfStops): string {
  const byFlag = [...suspended].map(([flag, { stops }]) => [flag, stops.map(writtenStop)]);
  return JSON.stringify({ stops: formVersion, set, number, changed, suspended: Object.fromEntries(byFlag) });
}

/**
 * Reads the payload of a list of stops. Whatever stands behind the name of a flag stops it.
 *
 * @throws {EditionFault} that says what is wrong
 */
export function readStopsPayload(text: string): ShelfStops {
  const data = payloadIn(text, "stops");
  const document = { file: stopsFile, data: { iudex: 1, suspended: own(data, "suspended") } };
  return {
    set: textOf(data, "set", setName),
    number: wholeNumberOf(data, "number", 1),
    changed: textOf(data, "changed", instant),
    suspended: readSuspensions(document, new Problems()),
  };
}
