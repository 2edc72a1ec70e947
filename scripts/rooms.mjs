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

/** What each room may use, besides itself. @type {Readonly<Record<string, readonly string[]>>} */
export const rooms = {
  ...Object.fromEntries(core.map((room, i) => [room, core.slice(0, i)])),
  folder: core,
  runtime: [...core, "folder"],
  tools: [...core, "folder"],
  http: [...core, "folder", "runtime"],
  testing: [...core, "folder", "runtime"],
  cli: [...core, "folder", "runtime", "tools"],
};

/** The lint rules of all rooms, as `overrides` of biome.json. */
export function roomRules() {
  return Object.entries(rooms).map(([room, uses]) => {
    const shut = Object.keys(rooms).filter((other) => other !== room && !uses.includes(other));
    const platform = core.includes(room) ? ["node:*"] : [];
    const patterns = [
      {
        group: [...platform, ...shut.map((other) => `**/${other}/**`)],
        message: `${room} may use ${uses.join(", ") || "nothing else"}.`,
      },
    ];
    return {
      includes: [`src/${room}/**`],
      linter: { rules: { style: { noRestrictedImports: { level: "error", options: { patterns } } } } },
    };
  });
}
