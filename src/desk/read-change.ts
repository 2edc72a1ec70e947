import { type Change, type ChangeField, changeFields, type FieldKind } from "../edit/index.ts";
import { isObject, own } from "../values/index.ts";
import { DeskFault } from "./desk-fault.ts";

/** @throws {DeskFault} for data that is not a change */
export function readChange(data: unknown): Change {
  const kind = isObject(data) ? own(data, "change") : undefined;
  if (!isObject(data) || typeof kind !== "string" || !Object.hasOwn(changeFields, kind))
    throw new DeskFault(400, "This is not a change that the desk knows.");
  const change: Record<string, unknown> = { change: kind };
  const fields: readonly (readonly [string, ChangeField])[] = Object.entries(changeFields[kind as Change["change"]]);
  for (const [name, { is, needed }] of fields) {
    const value = own(data, name) ?? undefined;
    if (value === undefined && needed) throw new DeskFault(400, `“${name}” of this change is missing.`);
    if (value === undefined) continue;
    if (!fits(value, is)) throw new DeskFault(400, `“${name}” of this change is not what it must be.`);
    change[name] = value;
  }
  return change as unknown as Change;
}

function fits(value: unknown, kind: FieldKind): boolean {
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
