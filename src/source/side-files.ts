import { limits } from "../values/index.ts";
import { field, object, required } from "./object-shape.ts";
import { record } from "./record-shape.ts";
import { anyValue, byKind, listOf, name, type Shape, text } from "./shape.ts";
import type { Walk } from "./walk.ts";

const version = required(
  { expected: String(limits.formatVersion), schema: { const: limits.formatVersion }, read: () => limits.formatVersion },
  "The version of the format",
);

const environments = listOf(name("an environment"), { what: "environments", nonEmpty: true });

const stop = object(
  {
    since: field(text({ expected: "an instant such as 2026-12-02T10:14Z" }), "When it was suspended"),
    who: field(text(), "Who did it"),
    note: field(text(), "Why"),
    in: field(environments, "Where; everywhere if left out"),
    except: field(environments, "Everywhere but here"),
  },
  { expected: "an entry such as { since: 2026-12-02T10:14Z, note: why }", isSound: isOneOrOther },
);

/** Both would say two things of one environment: then the stop counts everywhere. */
function isOneOrOther(value: { readonly in?: unknown; readonly except?: unknown }, walk: Walk): boolean {
  if (value.in === undefined || value.except === undefined) return true;
  walk.report("suspension-fault", { message: "Only one of “in” and “except” belongs here." });
  return true;
}

const suspension = byKind({
  object: stop,
  list: listOf(stop, { what: "stops", nonEmpty: true }) as Shape<unknown> as typeof stop,
});

/** `suspended.yaml`: flags that give their safe value for now. */
export const suspensionFile = object(
  { iudex: version, suspended: required(record(suspension, { what: "suspended flags" }), "The suspended flags") },
  { expected: "an object with “iudex” and “suspended”" },
);

/** `overrides.local.yaml`: what a developer wants flags to give on one machine. */
export const overridesFile = object(
  {
    iudex: version,
    overrides: field(record(anyValue(), { what: "overrides" }), "Flag → value, or the name of a variant"),
  },
  { expected: "an object with “iudex” and “overrides”" },
);
