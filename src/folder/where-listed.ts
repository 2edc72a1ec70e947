import { readFileSync } from "node:fs";
import { listedAs } from "../model/index.ts";
import { pointer } from "../problems/index.ts";
import { LineIndex } from "./lines.ts";
import { listKey } from "./lists.ts";
import type { Loaded } from "./load.ts";
import { locatorFor } from "./parse.ts";
import { csvParser } from "./rarely.ts";

/**
 * Tells where an id stands in the list of a cohort: the file and line of the list, or of the ids in the definition.
 * It reads the list again, so it is for explanations only.
 */
export function whereListed({ content, definitions }: Loaded): (cohort: string, id: string) => string | undefined {
  return (name, id) => {
    const cohort = definitions?.cohorts.get(name);
    if (cohort?.kind !== "list") return undefined;
    const written = listedAs(cohort, id);
    if (cohort.file === undefined) return inDefinition(content, cohort.place, written);
    const path = content.lists.get(listKey({ file: cohort.file, column: cohort.column }))?.path;
    const line = path === undefined ? undefined : lineOf(path, cohort.file, cohort.column, written);
    return line === undefined ? undefined : `${cohort.file}:${line}`;
  };
}

type Place = { readonly file: string; readonly path: readonly (string | number)[] };

function inDefinition({ files }: Loaded["content"], place: Place, id: string): string | undefined {
  const file = files.get(place.file);
  const ids = file && valueAt(file.parsed.data, [...place.path, "ids"]);
  if (!file || !Array.isArray(ids)) return undefined;
  const index = ids.findIndex(
    (each, i) => (file.parsed.spellings.get(pointer([...place.path, "ids", i])) ?? String(each)) === id,
  );
  if (index < 0) return undefined;
  const { start } = locatorFor(place.file, file.text).locate([...place.path, "ids", index], "value", undefined);
  const { line } = new LineIndex(file.text).position(start);
  return `${place.file}:${line}`;
}

function valueAt(data: unknown, path: Place["path"]): unknown {
  return path.reduce<unknown>((value, step) => (value as Record<string | number, unknown> | undefined)?.[step], data);
}

function lineOf(path: string, file: string, column: string | undefined, id: string): number | undefined {
  const text = readFileSync(path, "utf8");
  if (!file.endsWith(".csv")) {
    const index = text.split(/\r\n|\n|\r/).findIndex((line) => line.trim() === id);
    return index < 0 ? undefined : index + 1;
  }
  let header: string[] | undefined;
  let found: number | undefined;
  csvParser().parse(text, {
    bom: true,
    trim: true,
    skip_empty_lines: true,
    relax_column_count: true,
    on_record: (record: string[], { lines }: { lines: number }) => {
      if (!header) header = record;
      else if (found === undefined && record[column === undefined ? 0 : header.indexOf(column)] === id) found = lines;
      return null;
    },
  });
  return found;
}
