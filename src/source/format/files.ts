import { parseHours } from "../../calendar/index.ts";
import { parsePath } from "../../language/index.ts";
import { inText } from "../../problems/index.ts";
import { limits } from "../../values/index.ts";
import { field, object, required } from "../object-shape.ts";
import { record } from "../record-shape.ts";
import { listOf, name, type Shape, type TypeOf, text, yesNo } from "../shape.ts";
import type { Walk } from "../walk.ts";
import { flag } from "./flags.ts";
import { attribute, cohort } from "./people.ts";
import { about, date, dateText, instant, notAPath, path, zone } from "./texts.ts";

// Windows, environments, and the file as a whole.

const window = object(
  {
    about: about("the window"),
    zone,
    from: field(instant, "Open at and after this instant"),
    until: field(instant, "Shut at and after this instant"),
    through: field(dateText("for a time, write until"), "The last day on which it is open"),
    hours: field(
      text({ expected: "opening hours such as Mo-Fr 07:00-19:00", isSound: areHours }),
      "Opening hours: Mo-Fr 07:00-19:00; Sa 09:00-13:00",
    ),
    except: field(listOf(date, { what: "dates" }), "Local dates on which it does not open"),
  },
  { expected: "a window" },
);

function areHours(value: string, walk: Walk): boolean {
  const { fault } = parseHours(value);
  if (!fault) return true;
  const { start, end } = fault.span;
  walk.problems.report("hours-invalid", inText(walk.place(), fault.span), {
    message: fault.message,
    found: value.slice(start, end),
    expected: "opening hours such as Mo-Fr 07:00-19:00; Sa 09:00-13:00",
    help: fault.help,
  });
  return false;
}

export const environment = object(
  {
    "local-overrides": field(yesNo(), "Whether overrides.local.yaml counts here"),
    protected: field(yesNo(), "No overrides.local.yaml may ever count here"),
    passes: field(
      listOf(name("a flag"), { what: "flags" }),
      "The flags that a pass may touch here; every one if left out",
    ),
    about: about("the environment"),
  },
  { expected: "an environment", isSound: isTrulyProtected },
);

function isTrulyProtected(value: { readonly [key: string]: unknown }, walk: Walk): boolean {
  if (value["protected"] !== true || value["local-overrides"] !== true) return true;
  walk.inside("local-overrides", () =>
    walk.report("protected-environment", {
      message: "A protected environment has no local overrides.",
      found: "local-overrides: true beside protected: true",
      expected: "one of the two",
      help: "take one of them out",
    }),
  );
  return false;
}

export const defaults = object(
  { by: field(path, "What shares and splits hash, unless a flag or rule says otherwise"), zone },
  { expected: "an object of defaults" },
);

export const formatVersion: Shape<number> = {
  expected: `${limits.formatVersion}`,
  schema: { const: limits.formatVersion },
  // Looked at before everything else, with messages of its own.
  read: () => limits.formatVersion,
};

export const flagsOfFile = record(flag, { what: "flags" });

export const definitionFile = object(
  {
    iudex: required(formatVersion, "The version of the format"),
    defaults: field(defaults, "Defaults of this file"),
    environments: field(record(environment, { what: "environments" }), "The environments of the set"),
    attributes: field(
      record(attribute, { what: "attributes", isKey: isPathKey, keySchema: { type: "string" } }),
      "The attributes that a context may have",
    ),
    cohorts: field(record(cohort, { what: "cohorts" }), "Named groups"),
    windows: field(record(window, { what: "windows" }), "Named times"),
    flags: field(flagsOfFile, "The flags"),
  },
  { expected: "an object that begins with iudex: 1" },
);

function isPathKey(key: string, walk: Walk): boolean {
  if (!parsePath(key).fault) return true;
  walk.reportKey("path-invalid", notAPath(key));
  return false;
}

export type WindowSource = TypeOf<typeof window>;
export type EnvironmentSource = TypeOf<typeof environment>;
export type DefaultsSource = TypeOf<typeof defaults>;
export type DefinitionFile = TypeOf<typeof definitionFile>;
