import { readdirSync, readFileSync } from "node:fs";
import { join } from "node:path";
import { describe, expect, it } from "vitest";
import { stringify } from "yaml";
import { type Edit, editedData } from "../../src/edit/edit.ts";
import { editText } from "../../src/edit/edit-text.ts";
import { parseText } from "../../src/files/parse/parse.ts";
import { demoFolder } from "../support/folders.ts";
import { layouts } from "../support/layouts.ts";

const demo = readdirSync(demoFolder)
  .filter((file) => file.endsWith(".yaml"))
  .map((file) => [file, readFileSync(join(demoFolder, file), "utf8")] as const);

interface Source {
  readonly flags?: Record<
    string,
    { readonly rules?: readonly { readonly share?: unknown }[]; readonly environments?: object }
  >;
}

/** Every edit that the commands can ask for, of every flag of a file. */
function editsOf(data: unknown): Edit[] {
  const { flags = {} } = data as Source;
  return Object.entries(flags).flatMap(([name, { rules = [], environments }]): Edit[] => {
    const path = ["flags", name];
    const order = ["when", "share", "give"];
    return [
      { edit: "set", path: [...path, "safe"], value: 'odd: "value", # {[' },
      {
        edit: "set",
        path: [...path, "otherwise"],
        value: { deep: [1, { x: null }] },
        order: ["rules", "otherwise", "for-instance"],
      },
      { edit: "set", path: [...path, "environments", "production"], value: { rules, otherwise: true } },
      { edit: "set", path: [...path, "environments", "staging", "otherwise"], value: 5 },
      ...(environments ? [{ edit: "remove", path: [...path, "environments"] } as const] : []),
      ...rules.flatMap((rule, i): Edit[] => [
        { edit: "set", path: [...path, "rules", i, "share"], value: "33.3%", order },
        { edit: "set", path: [...path, "rules", i, "give"], value: "x, y" },
        ...(rule.share === undefined ? [] : [{ edit: "remove", path: [...path, "rules", i, "share"] } as const]),
        ...rules.flatMap((_, to): Edit[] =>
          to === i ? [] : [{ edit: "move", path: [...path, "rules"], from: i, to }],
        ),
      ]),
    ];
  });
}

function commentsIn(text: string): number {
  return text.match(/#(?: so it is| see below| yaml-language)/g)?.length ?? 0;
}

describe.each(layouts)("a file %s", (_, layOut) => {
  it.each(demo)("takes every edit of %s, comes to what was meant and keeps its comments", (file, original) => {
    const text = layOut(original);
    const { data } = parseText(file, text);
    for (const edit of editsOf(data)) {
      const after = editText(file, text, [edit]);
      expect(parseText(file, after).data).toEqual(editedData(data, edit));
      // What is replaced or removed may take its own comments along, and nothing else's.
      const least = edit.edit === "move" ? commentsIn(text) : commentsIn(text) - ownComments(text, data, edit);
      expect(commentsIn(after), JSON.stringify(edit)).toBeGreaterThanOrEqual(least);
      expect(after.includes("\r\n")).toBe(text.includes("\r\n"));
    }
  });
});

/** Comments inside what an edit replaces: a line of it each, before and behind. */
function ownComments(text: string, data: unknown, { path }: Edit): number {
  const replaced = path.reduce<unknown>(
    (here, step) => (here as Record<string | number, unknown> | undefined)?.[step],
    data,
  );
  if (replaced === undefined || commentsIn(text) < 3) return 0;
  return 2 * stringify({ replaced }, { lineWidth: 0 }).trimEnd().split("\n").length;
}

describe("JSON", () => {
  it.each(demo)("takes every edit of %s too", (_, original) => {
    const { data } = parseText("a.yaml", original);
    for (const indent of [2, 4, "\t", 0]) {
      const text = JSON.stringify(data, undefined, indent);
      for (const edit of editsOf(data)) {
        const after = editText("a.json", text, [edit]);
        expect(parseText("a.json", after).data).toEqual(editedData(data, edit));
      }
    }
  });
});

it("says so where a file cannot be edited without disturbing it, and gives nothing", () => {
  const shared = "iudex: 1\nflags:\n  a: &a { safe: 1 }\n  b: *a\n";
  expect(() => editText("a.yaml", shared, [{ edit: "set", path: ["flags", "b", "safe"], value: 2 }])).toThrow(
    /laid out in a way/,
  );
  expect(() => editText("a.yaml", shared, [{ edit: "set", path: ["flags", "a", "safe"], value: 2 }])).toThrow(
    /laid out in a way/,
  );
});
