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
    const before = last?.values[name];
    values[name] = isSame(before, value) ? before : value;
  }
  const now = {
    revision: told?.revision,
    values: isSame(last?.values, values) ? last!.values : values,
  } as PageSnapshot;
  return isSame(last, now) ? last! : now;
}

function fits(value: unknown, { fallback, texts }: CatalogueEntry<unknown>): boolean {
  return typeof value === typeof fallback && value !== null && (!texts || texts.includes(value as string));
}

function isSame(one: unknown, other: unknown): boolean {
  return JSON.stringify(one) === JSON.stringify(other);
}
