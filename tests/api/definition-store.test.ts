import { describe, expect, it } from "vitest";
import { accepted, goneBack, opened, rejected, remembered, type State, suspended } from "../../src/flags/store.ts";
import { defined } from "../support/definitions.ts";

// The transitions alone: no files, no timers.

const set = (safe: number) => defined({ flags: { a: { safe }, b: { safe: 1 } } });
const files = { kind: "files", folder: "flags" } as const;
const nothing = { since: undefined, who: undefined, note: undefined, in: undefined, except: undefined };

const stop = (...flags: string[]) =>
  new Map(
    flags.map((flag) => [
      flag,
      {
        flag,
        place: { file: "suspended.yaml", path: [] },
        stops: [{ place: { file: "suspended.yaml", path: [] }, ...nothing }],
      },
    ]),
  );

const one = set(1);
const two = set(2);
const start = opened(one, files);
const moved = remembered(accepted(start, two, files), "a: safe 1 → 2");
const back = goneBack(moved, one.revision)!;

interface Seen {
  readonly safe: unknown;
  readonly origin: string;
  readonly suspended: readonly string[];
}

function seen({ inForce, origin }: State): Seen {
  return {
    safe: inForce.flags.get("a")?.source.safe,
    origin: origin.kind,
    suspended: [...inForce.suspensions.keys()],
  };
}

describe("what is in force", () => {
  it.each<[string, State, Seen]>([
    ["as opened", start, { safe: 1, origin: "files", suspended: [] }],
    ["good files", moved, { safe: 2, origin: "files", suspended: [] }],
    ["gone back", back, { safe: 1, origin: "history", suspended: [] }],
    ["gone back, then broken files", rejected(back, undefined), { safe: 1, origin: "history", suspended: [] }],
    [
      "gone back, then broken files twice",
      rejected(rejected(back, undefined), new Map()),
      { safe: 1, origin: "history", suspended: [] },
    ],
    [
      "gone back, then files that say nothing new",
      accepted(back, set(2), files),
      { safe: 1, origin: "history", suspended: [] },
    ],
    ["gone back, then news", accepted(back, set(3), files), { safe: 3, origin: "files", suspended: [] }],
    ["suspended while broken", rejected(moved, stop("a")), { safe: 2, origin: "files", suspended: ["a"] }],
    [
      "broken, and not certain what is suspended",
      rejected(suspended(moved, stop("a")), undefined),
      { safe: 2, origin: "files", suspended: ["a"] },
    ],
    [
      "gone back while suspended",
      goneBack(suspended(moved, stop("a")), one.revision)!,
      { safe: 1, origin: "history", suspended: ["a"] },
    ],
    ["suspended after going back", suspended(back, stop("b")), { safe: 1, origin: "history", suspended: ["b"] }],
    [
      "reinstated",
      suspended(suspended(moved, stop("a", "b")), stop("b")),
      { safe: 2, origin: "files", suspended: ["b"] },
    ],
  ])("%s", (_, state, expected) => {
    expect(seen(state)).toEqual(expected);
  });

  it("stays the same object where nothing changes", () => {
    expect(suspended(moved, new Map())).toBe(moved);
    expect(rejected(moved, undefined)).toBe(moved);
  });

  it("is not to be had for a revision that the history does not hold", () => {
    expect(goneBack(moved, "nowhere")).toBeUndefined();
  });

  it("keeps ten revisions", () => {
    let state = start;
    for (let i = 0; i < 30; i++) state = remembered(accepted(state, set(i), files), String(i));
    expect(state.history.map(({ entry }) => entry.summary)).toEqual(
      Array.from({ length: 10 }, (_, i) => String(29 - i)),
    );
  });
});
