import type { AttributeType } from "../language/index.ts";
import { parseTime, parseVersion } from "../values/index.ts";

/** Is a value, as a file can write it, of a declared type? Versions and times must be readable ones. */
export function isOfType(value: unknown, type: AttributeType): boolean {
  switch (type) {
    case "text":
      return typeof value === "string";
    case "number":
      return typeof value === "number";
    case "yes-no":
      return typeof value === "boolean";
    case "list":
      return Array.isArray(value) && value.every((item) => typeof item === "string");
    case "version":
      return typeof value === "string" && parseVersion(value) !== undefined;
    case "time":
      return typeof value === "number" || (typeof value === "string" && !Number.isNaN(parseTime(value)));
    default:
      return typeof value === "string" && type.includes(value);
  }
}
