// Compiled, not run: what a catalogue lets through, and what it does not.
import { data, defineCatalogue, type Flags, followFlags, number, text, variant, yesNo } from "iudex";
import { followPage } from "iudex/page";
import { flagHooks } from "iudex/page/react";
import { z } from "zod";

const catalogue = defineCatalogue({
  storm: yesNo({ fallback: false }),
  seats: text(["list", "deck-plan"], { fallback: "list" }),
  motto: text({ fallback: "" }),
  minutes: number({ fallback: 15 }),
  gates: data(z.object({ lanes: z.number() }), { fallback: { lanes: 1 } }),
});

const pageCatalogue = defineCatalogue({
  seats: text(["list", "deck-plan"], { fallback: "list" }),
  gates: data({ fallback: { lanes: 1 } }),
});

// @ts-expect-error a fallback is one of the texts
text(["list", "deck-plan"], { fallback: "tour" });
// @ts-expect-error a fallback is of its type
yesNo({ fallback: "no" });
// @ts-expect-error a fallback is what the schema makes
data(z.object({ lanes: z.number() }), { fallback: { lanes: "one" } });

const flags = await followFlags("flags", { catalogue });
const storm: boolean = flags.value("storm");
const seats: "list" | "deck-plan" = flags.value("seats", {});
const lanes: number = flags.pin({}).value("gates").lanes;
const all: { readonly storm: boolean; readonly seats: "list" | "deck-plan" } = flags.values({});
const judged: number = flags.verdict("minutes").value;

// @ts-expect-error no such flag
flags.value("strom");
// @ts-expect-error not a number
const wrong: number = flags.value("motto");
// @ts-expect-error a context is an object
flags.value("storm", "context");
// @ts-expect-error another type than the flag's
flags.override({ minutes: "long" });
flags.override({ minutes: 20, seats: variant("deck") });
flags.on("verdict", ({ verdict }) => verdict.flag, { share: 0.1 });
// @ts-expect-error no such event
flags.on("changed", () => {});

const free = await followFlags("flags");
const maybe: boolean | number | string | object | undefined = free.value("anything");
// @ts-expect-error without a catalogue a value may be undefined
const certain: boolean = free.value("anything");

/** Flags with a catalogue can be handed on by their type. */
export function uses(given: Flags<typeof catalogue>): boolean {
  return given.value("storm");
}

uses(flags);

export { all, certain, judged, lanes, maybe, seats, storm, wrong };

const shown = followPage({ catalogue: pageCatalogue, changes: "/changes" });
const map: "list" | "deck-plan" = shown.value("seats");
const whole: { readonly lanes: number } = shown.snapshot().values.gates;
// @ts-expect-error no such flag
shown.value("strom");
const { useFlag } = flagHooks<typeof pageCatalogue>();
const hooked: "list" | "deck-plan" = useFlag("seats");
// @ts-expect-error not a number
const wrongHook: number = useFlag("seats");
const untyped: unknown = followPage({ first: { revision: "r", values: {} } }).value("anything");
console.log(map, whole, hooked, wrongHook, untyped);
