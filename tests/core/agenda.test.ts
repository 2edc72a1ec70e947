import fc from "fast-check";
import { expect, it } from "vitest";
import { FlagSet } from "../../src/core.ts";
import { agendaOf } from "../../src/insight/index.ts";
import { defined } from "../support/definitions.ts";
import { anyContext } from "../support/generated.ts";
import { anySet, definitionsOf, environments, instant } from "../support/random-sets.ts";
import { runs } from "../support/runs.ts";

const zone = "Atlantic/Faroe";
const anyWindow = fc.constantFrom<object>(
  { from: "2026-12-01T09:00Z" },
  { until: "2026-12-04T09:00Z" },
  { from: "2026-01-01", zone, except: ["2026-12-01", "2026-12-04"] },
  { from: "2026-12-01T09:00Z", until: "2027-01-01", zone, except: ["2026-12-04", "2026-12-05"] },
  { hours: "Tu 09:00-10:00; Fr 09:00-24:00", zone },
);

it("nothing changes by itself but what is listed, from the very instant on", () => {
  const count = runs(1_500);
  let changes = 0;
  fc.assert(
    fc.property(anySet, anyWindow, anyContext, instant, instant, (set, season, context, one, other) => {
      const definitions = defined({ ...definitionsOf(set), windows: { season } });
      const [before, after] = [Math.min(one, other), Math.max(one, other)];
      for (const environment of environments) {
        const flags = new FlagSet(definitions, environment);
        const listed = agendaOf(definitions, { from: before + 1, environment })
          .filter(({ kind, at }) => kind !== "review" && at <= after)
          .flatMap(({ part, name, flags: with_ }) => (part === "flag" ? [name] : with_));
        const given = (name: string, at: number) => flags.verdict(name, context, { at })!.value;
        const changed = Object.keys(set.flags).filter((name) => given(name, before) !== given(name, after));
        changes += changed.length;
        // A flag that goes by another changes with that one, under whose name a rising share is listed.
        const isListed = (name: string) => listed.includes(name) || listed.includes("first");
        expect(changed.filter((name) => !isListed(name))).toEqual([]);
      }
    }),
    { numRuns: count },
  );
  if (count === 1_500) expect(changes).toBeGreaterThan(50);
});

it.each([
  ["a share", { rules: [{ share: { rising: ["50% from 2026-12-01T09:00Z"] }, give: 2 }] }, {}],
  ["a window that opens", { provided: "window:w" }, { from: "2026-12-01T09:00Z" }],
  ["a window that shuts", { provided: "window:w" }, { until: "2026-12-01T09:00Z" }],
  ["hours", { provided: "window:w" }, { hours: "Tu 09:00-10:00", zone: "UTC" }],
])("%s is listed at its own instant, and no longer a moment later", (_, flag, window) => {
  const definitions = defined({
    defaults: { by: "id" },
    windows: Object.keys(window).length > 0 ? { w: window } : {},
    flags: { f: { safe: 1, ...flag } },
  });
  const at = Date.parse("2026-12-01T09:00Z");
  const first = (from: number) => agendaOf(definitions, { from })[0]?.at;
  expect([first(at - 1), first(at), first(at + 1) === at]).toEqual([at, at, false]);
});
