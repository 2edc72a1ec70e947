// The rooms of src and the arrows between them. Lint refuses every other import; biome.json is written from this table.

/** The rooms of the core, lowest first: no platform, no I/O, no timers. Each may use those before it. */
const core = [
  "values",
  "problems",
  "language",
  "calendar",
  "buckets",
  "ids",
  "source",
  "model",
  "judge",
  "checks",
  "reading",
  "insight",
];

/** They run in browsers too. */
const withoutNode = [...core, "catalogue", "page", "hooks", "desk-page"];

/** What each room may use, besides itself. @type {Readonly<Record<string, readonly string[]>>} */
export const rooms = {
  ...Object.fromEntries(core.map((room, i) => [room, core.slice(0, i)])),
  catalogue: [],
  files: core,
  flags: [...core, "catalogue", "files"],
  shelf: [...core, "files", "flags"],
  follow: [...core, "catalogue", "files", "flags", "shelf"],
  study: [...core, "files"],
  weigh: [...core, "files", "study"],
  edit: [...core, "files", "flags", "shelf", "follow", "study"],
  http: [...core, "catalogue", "files", "flags"],
  testing: [...core, "catalogue", "files", "flags", "follow"],
  page: ["catalogue"],
  hooks: ["catalogue", "page"],
  desk: [...core, "catalogue", "files", "flags", "shelf", "follow", "study", "edit", "weigh"],
  "desk-page": [...core, "desk"],
  cli: [...core, "catalogue", "files", "flags", "shelf", "follow", "study", "edit", "weigh", "desk"],
};

/** What programs import stands above the rooms. */
const entries = [
  "index.ts",
  "catalogue.ts",
  "core.ts",
  "desk.ts",
  "fleet.ts",
  "http.ts",
  "page.ts",
  "page-react.ts",
  "testing.ts",
  "tools.ts",
];

/** The lint rules of all rooms, as `overrides` of biome.json. */
export function roomRules() {
  const inside = Object.entries(rooms).map(([room, uses]) => {
    const shut = Object.keys(rooms).filter((other) => other !== room && !uses.includes(other));
    const platform = withoutNode.includes(room) ? ["node:*"] : [];
    return refusing(`src/${room}/**`, [
      {
        group: [...platform, ...shut.map((other) => `**/${other}/**`)],
        message: `${room} may use ${uses.join(", ") || "nothing else"}.`,
      },
      ...behindDoors(uses),
      {
        group: entries.flatMap((entry) => [`../${entry}`, `../../${entry}`]),
        message: "Take it from its room's door.",
      },
    ]);
  });
  return [...inside, refusing("src/*.ts", behindDoors(Object.keys(rooms)))];
}

/** Rooms are entered by their doors: `index.ts` lists what others may take. */
function behindDoors(uses) {
  return uses.map((other) => ({
    group: [`**/${other}/**`, `!**/${other}/index.ts`],
    message: `${other} is entered by its door, ${other}/index.ts.`,
  }));
}

function refusing(includes, patterns) {
  const rule = { level: "error", options: { patterns: patterns.filter(({ group }) => group.length > 0) } };
  return { includes: [includes], linter: { rules: { style: { noRestrictedImports: rule } } } };
}
