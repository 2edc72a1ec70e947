import { rename, rm, writeFile } from "node:fs/promises";
import { join } from "node:path";
import { followFlags } from "iudex";
import { describe, expect, it, onTestFinished } from "vitest";
import { iudex } from "../support/command.ts";
import { folderWith, put } from "../support/folders.ts";
import { next } from "../support/waiting.ts";

/** Anything that could begin a line of its own or steer a terminal. */
const steering = /[\u0000-\u001f\u007f-\u009f\u2028\u2029]/;

describe("summaries of events are one line of plain characters", () => {
  const rule = (name: string) =>
    `iudex: 1\nflags: { a: { safe: 1, rules: [{ name: ${JSON.stringify(name)}, give: 2 }] } }\n`;

  it("whatever files, rules and values are called", async () => {
    const folder = await folderWith({ "a.yaml": rule("calm") });
    const flags = await followFlags(folder, { watch: { quiet: 20 } });
    onTestFinished(() => flags.close());
    const changed = next(flags, "change");
    await put(folder, "a.yaml", rule("\u001b[31mred\u009b2J"));
    const { summary } = await changed;
    expect(summary).toContain("red");
    expect(summary).not.toMatch(steering);

    const rejected = next(flags, "rejected");
    const name = "b\n2026-11-30 ERROR forged\u001b[2J.yaml";
    await writeFile(join(folder, "b.tmp"), 'iudex: 1\nflags: { b: { safe: "\\u001b[31m", otherwise: 3 } }\n');
    await rename(join(folder, "b.tmp"), join(folder, name));
    const refusal = await rejected;
    expect(refusal.summary).toContain("forged");
    expect(refusal.summary).not.toMatch(steering);
    await rm(join(folder, name));

    const problem = next(flags, "problem");
    flags.value("no\nsuch\u001b[31m flag" as never);
    expect((await problem).message).not.toMatch(steering);
  });
});

describe("a protected environment", () => {
  const set = (production: string) =>
    `iudex: 1\nenvironments: { production: ${production}, local: { local-overrides: true } }\nflags: { a: { safe: 1 } }\n`;

  it("has no local overrides, and a running service says which it is", async () => {
    const folder = await folderWith({ "a.yaml": set("{ protected: true }") });
    const protectedOf = async (environment: string) => {
      const flags = await followFlags(folder, { environment, watch: false });
      await flags.close();
      return [flags.isProtected, flags.allowsLocalOverrides];
    };
    expect([await protectedOf("production"), await protectedOf("local")]).toEqual([
      [true, false],
      [false, true],
    ]);
    await put(folder, "a.yaml", set("{ protected: true, local-overrides: true }"));
    const refused = followFlags(folder, { environment: "production", watch: false });
    await expect(refused).rejects.toThrow("A protected environment has no local overrides.");
  });

  it("is told by diff in words", async () => {
    const before = await folderWith({ "a.yaml": set("{ protected: true, passes: [a] }") });
    const after = await folderWith({ "a.yaml": set("{ local-overrides: true }") });
    const { out } = await iudex("diff", before, after);
    expect(out).toMatch(/environment production\s+.*protected no longer/s);
    expect(out).toContain("whoever can write that file can turn any flag here");
  });
});

describe("where a private id stands", () => {
  const set = `iudex: 1
attributes: { email: { type: text, private: true } }
cohorts:
  crew: { of: email, file: crew.txt }
  lot: { by: email, share: 50% }
flags:
  listed: { safe: false, provided: cohort:crew, otherwise: true }
  drawn: { safe: false, provided: cohort:lot, otherwise: true }
  shared: { safe: false, rules: [{ share: 50%, by: email, give: true }] }
  split: { variants: { a: 1, b: 2 }, safe: a, rules: [{ split: [1 a, 1 b], by: email }] }
`;

  it("is in no explanation, command or answer, unless it is asked for", async () => {
    const folder = await folderWith({ "a.yaml": set, "crew.txt": "oda@post.example\n" });
    const flags = await followFlags(folder, { watch: false });
    onTestFinished(() => flags.close());
    const position = /0\.\d{4,}|\d\.\d+%|position|crew\.txt:1/;
    for (const flag of ["listed", "drawn", "shared", "split"]) {
      const explained = JSON.stringify(flags.explain(flag, { email: "oda@post.example" }));
      expect([flag, explained]).toEqual([flag, expect.not.stringMatching(position)]);
      const words = ["why", flag, "--as", "email=oda@post.example", "--flags", folder];
      for (const more of [[], ["--json"]]) {
        const { out } = await iudex(...words, ...more);
        expect([flag, out]).toEqual([flag, expect.not.stringMatching(position)]);
        expect(out).not.toContain("oda@post.example");
      }
    }
    for (const [flag, told] of [
      ["listed", /crew\.txt:1/],
      ["drawn", /at \d+\.\d+%/],
      ["shared", /at \d+\.\d+%/],
      ["split", /b \d\.\d+, a \d\.\d+/],
    ] as const) {
      const { out } = await iudex("why", flag, "--as", "email=oda@post.example", "--reveal", "--flags", folder);
      expect([flag, out]).toEqual([flag, expect.stringMatching(told)]);
    }
  });
});
