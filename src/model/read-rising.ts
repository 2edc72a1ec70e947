import { at, type Place, type Problems } from "../problems/index.ts";
import { type DefaultsSource, parseRisingStep, type RisingSource } from "../source/index.ts";
import { readBound, readZone, zoneOfFile } from "./read-windows.ts";

/** Checks a rising share: instants that can be read, ascending; a falling share is a warning. */
export function checkRising(share: RisingSource, defaults: DefaultsSource, place: Place, problems: Problems): void {
  const zone = readZone(share.zone, at(place, "zone"), problems) ?? zoneOfFile(defaults.zone);
  let before: { readonly percent: number; readonly from: number } | undefined;
  for (const [i, text] of share.rising.entries()) {
    const here = at(place, "rising", i);
    const step = parseRisingStep(text);
    if (!step) return;
    const from = readBound(step.instant, zone, { ...here, span: { start: step.offset, end: text.length } }, problems);
    if (from === undefined) return;
    if (before && from <= before.from) reportOrder(text, here, problems);
    else if (before && step.percent < before.percent) reportFall(before.percent, text, here, problems);
    before = { percent: step.percent, from };
  }
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
