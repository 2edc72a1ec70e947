import { loadPatterns, patternsAreLoaded } from "#late/patterns";
import { calendarIsLoaded, loadCalendar } from "#late/temporal";
import type { Document } from "../source/index.ts";
import { isObject, limits } from "../values/index.ts";

/** What is large, and what most sets do without: the engine of patterns and the calendar. */
interface Needs {
  patterns: boolean;
  calendar: boolean;
}

const patternShape = /\bmatches\b/;
const dateShape = /[0-9]{4}-[0-9]{2}-[0-9]{2}/;

/** What documents can need by what stands in them; rather too much than too little. */
function needsOf(documents: readonly Document[]): Needs {
  const needs = { patterns: false, calendar: false };
  for (const { data } of documents) look(data, needs, 0);
  return needs;
}

/** What nests deeper than it may, or in a circle, will be refused, and needs nothing. */
function look(value: unknown, needs: Needs, depth: number): void {
  if (depth > limits.depth) return;
  if (typeof value === "string") lookAtText(value, needs);
  else if (Array.isArray(value)) for (const item of value) look(item, needs, depth + 1);
  else if (isObject(value))
    for (const [key, member] of Object.entries(value)) {
      if (key === "windows") needs.calendar = true;
      lookAtText(key, needs);
      // A day on which somebody is to look at a flag is compared with other days, and no more.
      if (key !== "review-by") look(member, needs, depth + 1);
    }
}

function lookAtText(text: string, needs: Needs): void {
  needs.patterns ||= patternShape.test(text);
  needs.calendar ||= dateShape.test(text);
}

/** Loads what documents need and what is not there yet. */
export async function loadEngines(documents: readonly Document[]): Promise<void> {
  if (areLoaded()) return;
  const { patterns, calendar } = needsOf(documents);
  await Promise.all([patterns && loadPatterns(), calendar && loadCalendar()]);
}

/** @throws {Error} where documents need what a page has not loaded yet */
export function requireEngines(documents: readonly Document[]): void {
  if (areLoaded()) return;
  const { patterns, calendar } = needsOf(documents);
  const missing = [
    ...(patterns && !patternsAreLoaded() ? ["patterns (“matches”)"] : []),
    ...(calendar && !calendarIsLoaded() ? ["windows or dates"] : []),
  ];
  if (missing.length === 0) return;
  throw new Error(
    `This set has ${missing.join(" and ")}, and what reads them is not loaded: await openDefinitions(…) instead of calling readDefinitions(…).`,
  );
}

function areLoaded(): boolean {
  return patternsAreLoaded() && calendarIsLoaded();
}
