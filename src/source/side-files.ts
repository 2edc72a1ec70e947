import { limits } from "../values/index.ts";
import { field, object, required } from "./object-shape.ts";
import { record } from "./record-shape.ts";
import { anyValue, listOf, name, text } from "./shape.ts";

const version = required(
  { expected: String(limits.formatVersion), schema: { const: limits.formatVersion }, read: () => limits.formatVersion },
  "The version of the format",
);

const suspension = object(
  {
    since: field(text({ expected: "an instant such as 2026-12-02T10:14Z" }), "When it was suspended"),
    who: field(text(), "Who did it"),
    note: field(text(), "Why"),
    in: field(
      listOf(name("an environment"), { what: "environments", nonEmpty: true }),
      "Where; everywhere if left out",
    ),
  },
  { expected: "an entry such as { since: 2026-12-02T10:14Z, note: why }" },
);

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
