import type { Change } from "../edit/index.ts";
import { isObject, own } from "../values/index.ts";
import { DeskFault } from "./desk-fault.ts";

/** What each field of a change must be. */
type Kind = "text" | "yes" | "number" | "texts" | "context";

const inEveryFlag = { flag: "text", environment: "text" } as const;

/** The fields of each kind of change. */
const kinds: Readonly<Record<Change["change"], Readonly<Record<string, Kind>>>> = {
  flag: {
    ...inEveryFlag,
    like: "text",
    rule: "text",
    when: "text",
    share: "text",
    give: "text",
    split: "text",
    otherwise: "text",
    safe: "text",
    provided: "text",
    about: "text",
    owner: "text",
    lifespan: "text",
    reviewBy: "text",
    place: "number",
    newRule: "text",
    remove: "yes",
  },
  "new-flag": {
    flag: "text",
    file: "text",
    about: "text",
    owner: "text",
    lifespan: "text",
    reviewBy: "text",
    safe: "text",
    variants: "text",
  },
  example: { ...inEveryFlag, as: "context", at: "text", gives: "text", dropExample: "number" },
  cohort: {
    cohort: "text",
    isNew: "yes",
    file: "text",
    about: "text",
    when: "text",
    share: "text",
    by: "text",
    of: "text",
    ids: "texts",
    list: "text",
    column: "text",
  },
  ids: { cohort: "text", add: "texts", drop: "texts" },
  restore: { flag: "text", commit: "text" },
};

const needed: Readonly<Record<Change["change"], readonly string[]>> = {
  flag: ["flag"],
  "new-flag": ["flag", "safe"],
  example: ["flag"],
  cohort: ["cohort"],
  ids: ["cohort"],
  restore: ["flag", "commit"],
};

/** @throws {DeskFault} for data that is no change */
export function readChange(data: unknown): Change {
  const kind = isObject(data) ? own(data, "change") : undefined;
  const fields = typeof kind === "string" && Object.hasOwn(kinds, kind) ? kinds[kind as Change["change"]] : undefined;
  if (!isObject(data) || !fields) throw new DeskFault(400, "This is no change that the desk knows.");
  const change: Record<string, unknown> = { change: kind };
  for (const [name, wanted] of Object.entries(fields)) {
    const value = own(data, name);
    if (value === undefined || value === null) continue;
    if (!fits(value, wanted)) throw new DeskFault(400, `“${name}” of this change is not what it must be.`);
    change[name] = value;
  }
  for (const name of needed[kind as Change["change"]])
    if (change[name] === undefined) throw new DeskFault(400, `“${name}” of this change is missing.`);
  return change as unknown as Change;
}

function fits(value: unknown, kind: Kind): boolean {
  switch (kind) {
    case "text":
      return typeof value === "string" && value.length <= 20_000;
    case "yes":
      return typeof value === "boolean";
    case "number":
      return typeof value === "number" && Number.isInteger(value);
    case "texts":
      return Array.isArray(value) && value.length <= 200_000 && value.every((item) => typeof item === "string");
    case "context":
      return isObject(value) && JSON.stringify(value).length <= 20_000;
  }
}
