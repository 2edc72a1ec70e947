import { readFileSync } from "node:fs";
import { join } from "node:path";
import { expect, it } from "vitest";

const entries = ["index", "catalogue", "core", "desk", "fleet", "http", "page", "page-react", "testing", "tools"];
const root = join(import.meta.dirname, "../..");

/** The names that a file hands out, and the rooms that they come from. */
function namesIn(file: string): (readonly [name: string, room: string])[] {
  const text = readFileSync(join(root, "src", file), "utf8");
  return [...text.matchAll(/export (?:type )?(\*|\{[^}]*\}) from "\.\/(.*)";/g)].flatMap(([, names, from]) => {
    if (names === "*") return namesIn(from!);
    const room = file.includes("/") ? file.split("/")[0]! : from!.split("/")[0]!;
    if (room === "core.ts") return [];
    return [...names!.matchAll(/[\w$]+(?=[,}\s])/g)].filter(([name]) => name !== "type").map(([name]) => [name, room]);
  });
}

it("are few in public, and each means one thing", () => {
  const rooms = new Map<string, Set<string>>();
  for (const [name, room] of entries.flatMap((entry) => namesIn(`${entry}.ts`)))
    rooms.set(name, (rooms.get(name) ?? new Set()).add(room));
  expect([...rooms].filter(([, from]) => from.size > 1)).toEqual([]);
  expect(rooms.size).toBeGreaterThan(200);
  expect(rooms.size).toBeLessThanOrEqual(260);
});
