import { ToolError } from "../../files/index.ts";
import { type Definitions, type FlagDefinition, type Suspensions, stopIn } from "../../model/index.ts";
import { canonicalJson } from "../../values/index.ts";

/**
 * A stop at a shelf goes on under every edition. One under which it would stop less, or give another value, would end it
 * unseen.
 *
 * @throws {ToolError} that names the stop
 */
export function mustKeepStops(stops: Suspensions, before: Definitions | undefined, after: Definitions): void {
  for (const [flag, suspension] of stops) {
    const why = before && lossOf(flag, before, after, (environment) => stopIn(suspension, environment) !== undefined);
    if (why === undefined) continue;
    throw new ToolError(
      `${flag} is stopped at the shelf, and ${why}, so the stop would not do the same any more.`,
      "start it again first (iudex reinstate --at), or say that it is meant (--despite-stops)",
    );
  }
}

/** What becomes of a stopped flag that changes what its stop does; undefined where nothing does. */
function lossOf(
  flag: string,
  before: Definitions,
  after: Definitions,
  isStopped: (environment: string) => boolean,
): string | undefined {
  const [was, is] = [before.flags.get(flag), after.flags.get(flag)];
  if (!was) return undefined;
  if (!is) return "the edition does not hold it any more";
  const gone = [...before.environments.keys()].find((name) => !after.environments.has(name) && isStopped(name));
  if (gone !== undefined) return `the edition does not hold the environment ${gone} any more`;
  return canonicalJson(safeOf(was)) === canonicalJson(safeOf(is))
    ? undefined
    : "the edition gives it another safe value";
}

/** The value itself: a variant may keep its name and become another one. */
function safeOf({ source: { safe }, variants }: FlagDefinition): unknown {
  return variants && typeof safe === "string" ? variants.get(safe) : safe;
}
