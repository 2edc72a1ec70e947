import type { NameOf } from "../catalogue/index.ts";
import type { CodeOverrides, Flags } from "../flags/index.ts";
import { type Choice, choicesOf } from "./overriding.ts";

/** How thorough combinations are. */
export interface CombinationOptions {
  /** How many flags at a time must be seen in every combination of their values: 1, 2 (the default) or 3. */
  readonly strength?: 1 | 2 | 3;
}

/**
 * A small set of overrides in which every combination of values of any two flags (or as many as `strength` says) comes
 * up at least once. Two flags together can do what neither does alone; trying all combinations of all is seldom
 * possible, and most faults need only two.
 *
 * The method is the greedy one for covering arrays: each row begins with a combination that is still missing, and is
 * filled up with the values that cover most of what is left (after D. M. Cohen et al., “The AETG system”, 1997, without
 * its random candidates, so that the result is the same every time).
 *
 * @example
 * for (const overrides of combinations(flags, ["zone-fares", "seat-map", "storm-mode"])) {
 *   await flags.withOverrides(overrides, () => bookACrossing());
 * }
 */
export function combinations<C>(
  flags: Flags<C>,
  names: readonly NameOf<C>[],
  options: CombinationOptions = {},
): CodeOverrides<C>[] {
  const choices = names.map((name) => choicesOf(flags, name));
  const strength = Math.min(options.strength ?? 2, names.length);
  const rows = coveringRows(
    choices.map((each) => each.length),
    strength,
  );
  return rows.map((row) => overridesOf(names, choices, row) as CodeOverrides<C>);
}

function overridesOf(
  names: readonly string[],
  choices: readonly (readonly Choice[])[],
  row: readonly number[],
): Record<string, unknown> {
  return Object.fromEntries(names.map((name, i) => [name, choices[i]![row[i]!]!.override]));
}

/** A partial row: for each flag the index of its value, or −1 while it is open. */
type Row = number[];

export function coveringRows(sizes: readonly number[], strength: number): readonly (readonly number[])[] {
  const missing = new Set<string>();
  for (const flags of choose(sizes.length, strength)) {
    for (const values of product(flags.map((flag) => sizes[flag]!))) missing.add(keyOf(flags, values));
  }
  const rows: Row[] = [];
  const selections = choose(sizes.length, strength);
  while (missing.size > 0) {
    const row = startingRow(sizes.length, missing);
    for (let flag = 0; flag < sizes.length; flag++)
      if (row[flag] === -1) row[flag] = bestValue(row, flag, sizes[flag]!, selections, missing);
    for (const flags of selections)
      missing.delete(
        keyOf(
          flags,
          flags.map((flag) => row[flag]!),
        ),
      );
    rows.push(row);
  }
  return rows;
}

function keyOf(flags: readonly number[], values: readonly number[]): string {
  return flags.map((flag, i) => `${flag}=${values[i]}`).join(",");
}

function startingRow(length: number, missing: ReadonlySet<string>): Row {
  const row: Row = Array.from({ length }, () => -1);
  const [first = ""] = missing;
  for (const part of first.split(",").filter(Boolean)) {
    const [flag, value] = part.split("=").map(Number) as [number, number];
    row[flag] = value;
  }
  return row;
}

function bestValue(
  row: Row,
  flag: number,
  size: number,
  selections: readonly (readonly number[])[],
  missing: ReadonlySet<string>,
): number {
  let best = 0;
  let most = -1;
  for (let value = 0; value < size; value++) {
    const tried = row.with(flag, value);
    const settled = selections.filter((flags) => flags.includes(flag) && flags.every((f) => tried[f] !== -1));
    const gained = settled.filter((flags) =>
      missing.has(
        keyOf(
          flags,
          flags.map((f) => tried[f]!),
        ),
      ),
    ).length;
    if (gained > most) [best, most] = [value, gained];
  }
  return best;
}

/** Every selection of `count` of the numbers below `total`, ascending. */
function choose(total: number, count: number, from = 0): number[][] {
  if (count === 0) return [[]];
  const found: number[][] = [];
  for (let i = from; i <= total - count; i++)
    for (const rest of choose(total, count - 1, i + 1)) found.push([i, ...rest]);
  return found;
}

function product(sizes: readonly number[]): number[][] {
  return sizes.reduce<number[][]>(
    (rows, size) => rows.flatMap((row) => Array.from({ length: size }, (_, value) => [...row, value])),
    [[]],
  );
}
