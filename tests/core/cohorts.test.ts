import { describe, expect, it } from "vitest";
import { murmur3 } from "../../src/buckets/murmur3.ts";
import { Race } from "../../src/buckets/race.ts";
import { FlagSet } from "../../src/core.ts";
import { IdSet } from "../../src/ids/id-set.ts";
import { codes, defined } from "../support/definitions.ts";
import { hash, murmur } from "../support/oracle.ts";
import { runs } from "../support/runs.ts";

describe("sets of ids", () => {
  const kinds: Record<string, (i: number) => string> = {
    integers: (i) => String(i * 7919),
    uuids: (i) =>
      `${((i * 2654435761) >>> 0).toString(16).padStart(8, "0")}-0000-4000-8000-${i.toString(16).padStart(12, "0")}`,
    texts: (i) => `A-${i}`,
    "wide texts": (i) => `ø${i}😀`,
    "long texts": (i) => `${i}-${"x".repeat(250 + (i % 8))}`,
    "a mixture": (i) => [String(i), `A-${i}`, `00${i}`, `${i}.5`, `-${i}`, `a${"x".repeat(35)}${i}`][i % 6]!,
    "all zero": (i) => ["0", "00000000-0000-0000-0000-000000000000", `x${i}`][i % 3]!,
  };
  /** Below and above the size from which ids stand in tables. */
  const sizes = [runs(5_000), runs(25_000)];

  it.each(Object.keys(kinds))("hold exactly what was put in: %s", (kind) => {
    for (const size of sizes) {
      const ids = Array.from({ length: size }, (_, i) => kinds[kind]!(i));
      const set = IdSet.from([...ids, ...ids]);
      const handedOver = IdSet.unpack(structuredClone(set.pack()));
      const plain = new Set(ids);
      const asked = ids.flatMap((id) => [id, `${id}0`, id.slice(1), id.toUpperCase(), `0${id}`, ""]);
      for (const each of [set, handedOver]) {
        expect(each.size).toBe(plain.size);
        expect([...each].sort()).toEqual([...plain].sort());
        expect(asked.filter((id) => each.has(id) !== plain.has(id))).toEqual([]);
      }
    }
  });

  it("hold texts of every length apart", () => {
    const lengths = [0, 1, 253, 254, 255, 256, 257, 511, 512, 65_535, 65_536, 70_000];
    const long = ["x", "é", "ø😀"].flatMap((letter) => lengths.map((length) => letter.repeat(length)));
    const set = IdSet.from([...Array.from({ length: 25_000 }, (_, i) => `A-${i}`), ...long]);
    expect(long.filter((id) => !set.has(id))).toEqual([]);
    expect(new Set([...set].slice(25_000))).toEqual(new Set(long));
    const others = long
      .flatMap((id) => [`${id}x`, `${id.slice(0, -1)}y`, id.slice(0, -1)])
      .filter((id) => !long.includes(id));
    expect(others.filter((id) => set.has(id))).toEqual([]);
  });

  it("hand themselves out as texts only where they are few", () => {
    const some = (count: number) => IdSet.from(Array.from({ length: count }, (_, i) => `A-${i}`));
    expect(some(2_000).few()).toHaveLength(2_000);
    expect(some(2_001).few()).toBeUndefined();
  });
});

describe("the hash", () => {
  it.each([
    ["", 0, 0],
    ["", 1, 0x514e28b7],
    ["test", 0, 0xba6bd213],
    ["Hello, world!", 0, 0xc0363e43],
    ["The quick brown fox jumps over the lazy dog", 0x9747b28c, 0x2fa826cd],
    ["ππππππππ", 0x9747b28c, 0xd58063c1],
  ])("of %j with seed %d is the published one", (text, seed, hash) => {
    expect(murmur3(text, seed)).toBe(hash);
  });

  it("hashes the bytes of UTF-8, at every edge of it and at every length", () => {
    const edges = [0x00, 0x7f, 0x80, 0x7ff, 0x800, 0xd7ff, 0xe000, 0xffff, 0x10000, 0x10ffff];
    for (const edge of edges) {
      for (let length = 0; length < 9; length++) {
        for (const text of [
          "a".repeat(length) + String.fromCodePoint(edge),
          String.fromCodePoint(edge).repeat(length),
        ]) {
          expect([edge, length, murmur3(text, 9)]).toEqual([
            edge,
            length,
            murmur(new TextEncoder().encode(text), 9) >>> 0,
          ]);
        }
      }
    }
  });

  it("takes a lone surrogate as the replacement character", () => {
    expect(murmur3("a\ud800", 7)).toBe(murmur3("a\ufffd", 7));
  });
});

describe("the race of a split", () => {
  const entrants = [
    { variant: "classic", parts: 2 },
    { variant: "idle", parts: 0 },
    { variant: "deck", parts: 1 },
  ];

  it("gives every variant with parts its time, as the recipe says, the shortest first", () => {
    for (const id of ["A-1", "A-2", "A-3", "A-17"]) {
      const times = new Race("seat-map", entrants).times(id);
      const expected = entrants
        .filter(({ parts }) => parts > 0)
        .map((each) => ({
          ...each,
          time: -Math.log(((hash("split", `seat-map:${each.variant}`, id) >>> 0) + 0.5) / 2 ** 32) / each.parts,
        }))
        .sort((a, b) => a.time - b.time);
      expect(times).toEqual(expected);
      expect(new Race("seat-map", entrants).winner(id)).toBe(expected[0]!.variant);
      expect(new Race("seat-map", entrants.toReversed()).winner(id)).toBe(expected[0]!.variant);
    }
  });
});

describe("cohorts by list", () => {
  const set = new FlagSet(
    defined({
      cohorts: { c: { of: "id", ids: ["17", "A-1"] } },
      flags: {
        a: {
          safe: 0,
          rules: [
            { when: "cohort:c", give: 1 },
            { when: "not cohort:c", give: 2 },
          ],
        },
      },
    }),
  );
  it.each<[unknown, number]>([
    ["17", 1],
    [17, 1],
    [17n, 1],
    ["A-1", 1],
    ["a-1", 2],
    ["017", 2],
    [2 ** 53, 0],
    [1.5, 0],
    ["", 0],
    [true, 0],
    [undefined, 0],
  ])("%s", (id, value) => {
    expect(set.value("a", { id })).toBe(value);
  });

  it("may be empty, and then holds nobody", () => {
    expect(
      codes({ cohorts: { c: { of: "id", ids: [] } }, flags: { a: { safe: true, provided: "cohort:c" } } }),
    ).toEqual([]);
  });
});

describe("shares", () => {
  it("only ever add subjects when they are raised, and come near their percentage", () => {
    const at = (share: number) =>
      new FlagSet(defined({ flags: { a: { safe: false, by: "id", rules: [{ share: `${share}%`, give: true }] } } }));
    const ids = Array.from({ length: 20_000 }, (_, i) => ({ id: `A-${i}` }));
    const inside = (share: number) => {
      const set = at(share);
      return new Set(ids.filter((context) => set.value("a", context)));
    };
    const [ten, thirty] = [inside(10), inside(30)];
    expect([...ten].every((context) => thirty.has(context))).toBe(true);
    expect(Math.abs(ten.size / ids.length - 0.1)).toBeLessThan(0.01);
    expect([inside(0).size, inside(100).size]).toEqual([0, ids.length]);
  });

  it("and splits are independent of each other", () => {
    const set = new FlagSet(
      defined({
        flags: {
          a: { variants: { x: 1, y: 2 }, safe: "x", by: "id", rules: [{ share: "50%", split: ["1 x", "1 y"] }] },
        },
      }),
    );
    const given = Array.from({ length: 20_000 }, (_, i) => set.verdict("a", { id: i })!).filter(
      (v) => v.cause === "rule",
    );
    const share = given.filter((v) => v.variant === "x").length / given.length;
    expect(Math.abs(share - 0.5)).toBeLessThan(0.02);
  });
});
