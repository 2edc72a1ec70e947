import { writeFile } from "node:fs/promises";
import { join } from "node:path";
import { followFlags } from "iudex";
import { expect, it, onTestFinished } from "vitest";
import { folderWith } from "../support/folders.ts";
import { collected, next } from "../support/waiting.ts";

const set = (environments: string) =>
  `iudex: 1\nenvironments: ${environments}\nflags:\n  a:\n    safe: 0\n    provided: x\n    rules: [{ give: 1 }]\n    environments:\n      staging: { provided: y, otherwise: 3 }\n      live: { rules: [] , otherwise: 2 }\n`;

it("adds what is provided in an environment, and replaces rules and otherwise", async () => {
  const folder = await folderWith({ "a.yaml": set("{ staging: {}, live: {} }") });
  const values = async (environment: string) => {
    const flags = await followFlags(folder, { environment, watch: false });
    return [{}, { x: true }, { y: true }, { x: true, y: true }].map((context) => flags.value("a", context));
  };
  expect(await values("staging")).toEqual([0, 0, 0, 1]);
  expect(await values("live")).toEqual([0, 2, 0, 2]);
});

it("refuses a change that takes the program's environment away, and goes on", async () => {
  const folder = await folderWith({ "a.yaml": set("{ staging: {}, live: {} }") });
  const flags = await followFlags(folder, { environment: "live" });
  onTestFinished(() => flags.close());
  const { revision } = flags;
  const problems = collected(flags, "problem");
  const rejected = next(flags, "rejected");
  await writeFile(join(folder, "a.yaml"), set("{ staging: {}, live: {} }").replaceAll("live", "production"));
  await rejected;
  expect(problems[0]?.message).toContain("There is no environment “live”");
  expect([flags.revision, flags.value("a", { x: true })]).toEqual([revision, 2]);
});

it("can be asked under any name where the set declares none", async () => {
  const folder = await folderWith({
    "a.yaml": "iudex: 1\nflags: { a: { safe: false, provided: environment is present, otherwise: true } }\n",
  });
  expect((await followFlags(folder, { environment: "anything", watch: false })).value("a")).toBe(true);
  expect((await followFlags(folder, { watch: false })).value("a")).toBe(false);
});
