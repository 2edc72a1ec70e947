import type { PeopleRead } from "../study/index.ts";
import { printable } from "../values/index.ts";
import { count, number } from "./output.ts";

/** What of a file of contexts could not be read, in lines. */
export function readFaults({
  unreadableLines,
  firstUnreadable,
  unreadableValues,
  unreadColumns,
}: PeopleRead): string[] {
  const lines: string[] = [];
  if (firstUnreadable) {
    const first = `line ${number(firstUnreadable.line)}: ${printable(firstUnreadable.message)}`;
    lines.push(
      `${count(unreadableLines, "line")} could not be read and ${unreadableLines === 1 ? "is" : "are"} not counted, the first ${first}`,
    );
  }
  for (const [attribute, values] of Object.entries(unreadableValues)) {
    lines.push(
      `${count(values, "value")} of ${attribute} could not be read by its type, and ${values === 1 ? "counts" : "count"} as missing`,
    );
  }
  for (const [column, near] of Object.entries(unreadColumns))
    lines.push(`nothing reads the column ${printable(column)}; did you mean ${near}?`);
  return lines;
}
