import { isZone, readInstant } from "../calendar/instant.ts";
import { at, type Place, type Problems } from "../problems/problem.ts";
import { type DefaultsSource, parseRisingStep, type RisingSource } from "../source/format.ts";
import { isObject, own } from "../values/data.ts";
import { readBound, readZone } from "./read-windows.ts";

/** One step of a rising share. */
export interface RisingStep {
  /** From 0 to 100. */
  readonly percent: number;
  /** Epoch milliseconds from which it holds. */
  readonly from: number;
}

/** Checks a rising share: instants that can be read, ascending; a falling share is a warning. */
export function readRising(share: object, defaults: DefaultsSource, place: Place, problems: Problems): void {
  const named = own(share, "zone");
  const zone =
    readZone(typeof named === "string" ? named : undefined, at(place, "zone"), problems) ?? defaultZone(defaults);
  const steps = own(share, "rising");
  if (!Array.isArray(steps)) return;
  let before: RisingStep | undefined;
  for (const [i, text] of steps.entries()) {
    const here = at(place, "rising", i);
    const step = typeof text === "string" ? parseRisingStep(text) : undefined;
    const from =
      step && readBound(step.instant, zone, { ...here, span: { start: step.offset, end: text.length } }, problems);
    if (!step || from === undefined) return;
    if (before && from <= before.from) reportOrder(text, here, problems);
    else if (before && step.percent < before.percent) reportFall(before.percent, text, here, problems);
    before = { percent: step.percent, from };
  }
}

/** The zone of the file's defaults; one that does not exist is reported where it stands. */
function defaultZone(defaults: DefaultsSource): string | undefined {
  const zone = isObject(defaults) ? own(defaults, "zone") : undefined;
  return typeof zone !== "string" ? undefined : isZone(zone) ? zone : "unknown";
}

function reportOrder(text: string, place: Place, problems: Problems): void {
  problems.report("share-order", place, {
    message: "The steps of a rising share go forward in time.",
    found: text,
    expected: "an instant after that of the step before",
  });
}

function reportFall(before: number, text: string, place: Place, problems: Problems): void {
  problems.report("share-falls", place, {
    message: `This step is smaller than the one before (${before}%), so people lose what they had.`,
    found: text,
    expected: `at least ${before}%`,
  });
}

/** The steps of a checked rising share. */
export function risingSteps(share: RisingSource, defaults: DefaultsSource): readonly RisingStep[] {
  const zone = share.zone ?? defaults.zone;
  return share.rising.map((text) => {
    const { percent, instant } = parseRisingStep(text)!;
    return { percent, from: readInstant(instant, zone) as number };
  });
}
