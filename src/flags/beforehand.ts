import { resolve } from "node:path";
import type { Catalogue } from "../catalogue/index.ts";
import type { Definitions } from "../model/index.ts";
import type { Problem } from "../problems/index.ts";
import { type Place, problem } from "../problems/index.ts";
import { Guard } from "./guard.ts";
import { type Resolved, resolveOverrides, textLayerValue } from "./overrides.ts";

// What a running process would find, told before there is one.

/** The overrides of the local file, held against a set. */
export function localOverrides(values: ReadonlyMap<string, unknown>, definitions: Definitions): Resolved {
  const given = new Map([...values].map(([name, value]) => [name, textLayerValue(name, value, definitions)]));
  return resolveOverrides(given, "local-file", definitions);
}

/** Each override of the local file that would be refused. */
export function overrideProblems(
  values: ReadonlyMap<string, unknown>,
  definitions: Definitions,
  file: string,
): Problem[] {
  return [...values].flatMap(([name, value]) => {
    const place: Place = { file, path: ["overrides", name], part: "key" };
    const { refused } = localOverrides(new Map([[name, value]]), definitions);
    return refused.map((message) => problem("override-refused", place, { message }));
  });
}

/** Each flag that a program's catalogue promises otherwise than the definitions have it. */
export function catalogueProblems(catalogue: Catalogue, definitions: Definitions, module: string): Problem[] {
  return new Guard(catalogue, definitions).mismatches.map(({ flag, message }) => {
    const defined = definitions.flags.get(flag)?.place;
    const place: Place = defined ? { ...defined, part: "key" } : { file: resolve(module), path: [] };
    return problem("catalogue-mismatch", place, { message });
  });
}
