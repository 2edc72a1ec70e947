import { type Definitions, FlagSet, type Problem, readDefinitions } from "../../src/core.ts";

/** A set from plain data; fails the test when there are errors. */
export function defined(data: object): Definitions {
  const { definitions, problems } = read(data);
  if (!definitions) throw new Error(problems.map((p) => `${p.code}: ${p.message}`).join("\n"));
  return definitions;
}

export function read(data: object): { definitions: Definitions | undefined; problems: readonly Problem[] } {
  return readDefinitions([{ file: "test.json", data: { iudex: 1, ...data } }]);
}

export function codes(data: object): string[] {
  return read(data).problems.map((p) => p.code);
}

/** Does a condition match? The flag gives "true", "false" or "undecided", by asking it and its opposite. */
export function answerOf(
  condition: string,
  context: unknown,
  rest: object = {},
  at = 0,
): "true" | "false" | "undecided" {
  const flags = {
    straight: { safe: false, rules: [{ when: condition, give: true }] },
    opposite: { safe: false, rules: [{ when: `not (${condition})`, give: true }] },
  };
  const { flags: others, ...parts } = rest as { flags?: object };
  const set = new FlagSet(defined({ ...parts, flags: { ...flags, ...others } }));
  if (set.value("straight", context, { at }) === true) return "true";
  return set.value("opposite", context, { at }) === true ? "false" : "undecided";
}
