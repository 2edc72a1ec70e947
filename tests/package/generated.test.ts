import { readdir, readFile } from "node:fs/promises";
import { join } from "node:path";
import { Ajv2020 } from "ajv/dist/2020.js";
import { describe, expect, it } from "vitest";
import { parse } from "yaml";
import { problemCatalogue } from "../../src/core.ts";
import { demoFolder, projectRoot } from "../support/folders.ts";

describe("files made from the code", async () => {
  const { generatedFiles } = (await import(join(projectRoot, "scripts/generated-files.mjs"))) as {
    generatedFiles(): Promise<Record<string, string>>;
  };
  it.each(Object.entries(await generatedFiles()))("%s is as the code says (npm run generate)", async (file, text) => {
    expect(await readFile(join(projectRoot, file), "utf8")).toBe(text);
  });
});

describe("the catalogue of problems", () => {
  it("names every code that the sources report, and no other", async () => {
    const files = await readdir(join(projectRoot, "src"), { recursive: true });
    const sources = files
      .filter((file) => file.endsWith(".ts") && !file.endsWith("catalogue.ts"))
      .map((file) => join(projectRoot, "src", file));
    const text = (await Promise.all(sources.map((file) => readFile(file, "utf8"))))
      .join("\n")
      .replaceAll(/`(unused|unknown)-\$\{\w+\}`/g, (_, stem) =>
        (stem === "unused" ? ["cohort", "window"] : ["cohort", "window", "flag"])
          .map((what) => `"${stem}-${what}"`)
          .join(" "),
      );
    const unreported = Object.keys(problemCatalogue).filter((code) => !text.includes(`"${code}"`));
    expect(unreported).toEqual([]);
  });
});

describe("the JSON Schema", async () => {
  const schema = JSON.parse(await readFile(join(projectRoot, "schema.json"), "utf8")) as object;
  const validate = new Ajv2020({ strict: false, allErrors: true }).compile(schema);

  it.each(["set.yaml", "people.yaml", "fares.yaml", "crossing.yaml", "operations.yaml"])(
    "accepts the demo's %s, which names it",
    async (file) => {
      const text = await readFile(join(demoFolder, file), "utf8");
      expect(text.split("\n")[0]).toContain("schema.json");
      validate(parse(text));
      expect(validate.errors ?? []).toEqual([]);
    },
  );

  it.each<[string, object]>([
    ["another version", { iudex: 2 }],
    ["an unknown key", { iudex: 1, flag: {} }],
    ["a flag without a safe value", { iudex: 1, flags: { a: {} } }],
    ["a rule that gives nothing", { iudex: 1, flags: { a: { safe: 1, rules: [{ when: "x" }] } } }],
    ["a share without its sign", { iudex: 1, flags: { a: { safe: 1, rules: [{ share: "10", give: 2 }] } } }],
    ["a name with a blank", { iudex: 1, flags: { "a b": { safe: 1 } } }],
    ["a cohort of two kinds", { iudex: 1, cohorts: { a: { when: "x", of: "y", ids: [] } } }],
  ])("refuses %s", (_, data) => {
    expect(validate(data)).toBe(false);
  });
});
