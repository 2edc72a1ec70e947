import type { Catalogue, CatalogueEntry } from "../catalogue/index.ts";
import type { PageSnapshot, Told } from "./page-flags.ts";

/**
 * What holds after something was told: values of the catalogue's types, its fallbacks for the rest. Data that came once
 * more stays the object that it was, so that whoever compares sees no change.
 *
 * @param unfit hears of flags that were told a value of another type
 */
export function heldAfter(
  last: PageSnapshot | undefined,
  told: Told | undefined,
  catalogue: Catalogue | undefined,
  unfit: (name: string, value: unknown) => void,
): PageSnapshot {
  const given = told ? told.values : {};
  const entries = catalogue?.entries;
  // Without a prototype, so that no name finds anything that was not told.
  const values: Record<string, unknown> = Object.create(null);
  for (const name of Object.keys(entries ?? given)) {
    const entry = entries?.[name];
    let value = given[name];
    if (entry && !fits(value, entry)) {
      if (value !== undefined) unfit(name, value);
      value = entry.fallback;
    }
    values[name] = unlessSame(last?.values[name], value);
  }
  return unlessSame(last, { revision: told?.revision, values: unlessSame(last?.values, values) } as PageSnapshot);
}

function fits(value: unknown, { fallback, texts }: CatalogueEntry<unknown>): boolean {
  return typeof value === typeof fallback && value !== null && (!texts || texts.includes(value as string));
}

/** What was before, where what is now says the same. */
function unlessSame<T>(before: T | undefined, now: T): T {
  return JSON.stringify(before) === JSON.stringify(now) ? before! : now;
}
