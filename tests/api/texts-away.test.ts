import { utimes } from "node:fs/promises";
import { join } from "node:path";
import { followFlags } from "iudex";
import { loadFolder } from "iudex/tools";
import { expect, it, onTestFinished } from "vitest";
import { FileText } from "../../src/files/parse/file-text.ts";
import { folderWith, put } from "../support/folders.ts";
import { storyTime } from "../support/story.ts";
import { collected, next, sleep } from "../support/waiting.ts";

/** Long enough to be packed, with characters of one to four bytes. */
const long = `iudex: 1\nflags:\n${Array.from({ length: 100 }, (_, i) => `  f${i}: { about: "Fähre ⛴ 𝄞 ${i}", safe: false }\n`).join("")}  crew-first: { safe: false, rules: [{ when: "cohort:crew", give: true }] }\n`;
const crew = (name: string) => `iudex: 1\ncohorts: { ${name}: { when: 'email ends with "@ternhaven.example"' } }\n`;

/** With texts that are put away: there is nothing to be heard of it. */
async function opened(options = {}) {
  const folder = await folderWith({ "long.yaml": long, "crew.yaml": crew("crew") });
  const flags = await followFlags(folder, { watch: { quiet: 20 }, ...options });
  onTestFinished(() => flags.close());
  await sleep(100);
  return { folder, flags };
}

it("a text that is put away is the same text, whenever somebody looks", async () => {
  for (const whole of ["", "short", long, "\ufeff".repeat(3_000)]) {
    const text = new FileText(whole);
    const putting = [text.putAway(), text.putAway()];
    expect(text.whole).toBe(whole);
    await Promise.all(putting);
    expect(text.whole).toBe(whole);
    await text.putAway();
    expect(text.whole).toBe(whole);
  }
});

it("what is wrong later in a file that did not change is found at its line", async () => {
  const { folder, flags } = await opened();
  const rejected = next(flags, "rejected");
  await put(folder, "crew.yaml", crew("crow"));
  const { problems } = await rejected;
  expect(problems).toMatchObject([{ code: "unknown-cohort", file: "long.yaml", line: 103, found: "crew" }]);
  const text = (await loadFolder(folder)).problems;
  expect(problems).toEqual(text.filter(({ severity }) => severity === "error"));
});

it("a file that was only touched is found to be the same, and a changed one to have changed", async () => {
  const { folder, flags } = await opened();
  const changes = collected(flags, "change");
  await utimes(join(folder, "long.yaml"), storyTime / 1_000, storyTime / 1_000);
  await sleep(200);
  await put(folder, "long.yaml", long.replace('99", safe: false', '99", safe: true'));
  await expect.poll(() => changes.length).toBe(1);
  await put(folder, "long.yaml", long);
  await expect.poll(() => changes.length).toBe(2);
  expect(changes[1]!.to).toBe(changes[0]!.from);
});

it("a copy is kept of texts that were put away long ago", async () => {
  const lastGood = await folderWith({});
  const { folder, flags } = await opened({ lastGood });
  const change = next(flags, "change");
  await put(folder, "more.yaml", "iudex: 1\nflags: { more: { safe: 1 } }\n");
  const { to } = await change;
  await flags.close();
  await put(folder, "long.yaml", "iudex: 1\nflags: [");
  const restarted = await followFlags(folder, { lastGood, watch: false });
  onTestFinished(() => restarted.close());
  expect([restarted.origin.kind, restarted.revision]).toEqual(["last-good", to]);
  expect(restarted.value("crew-first", { email: "kari@ternhaven.example" })).toBe(true);
});
