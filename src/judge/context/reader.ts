import { intern, memo, type Plain } from "../../values/index.ts";
import { ofOneStep, ofTwoSteps } from "../fast/readers.ts";
import { steps } from "./reach.ts";

/** Reads the attribute at a path: own properties only; undefined where there is none. */
export type Reader = (context: Plain) => unknown;

const separator = "\u0000";

/**
 * The reader of a path, one and the same for the whole process.
 *
 * @example readerOf(["account", "id"])({ account: { id: "A-17" } }) // "A-17"
 */
export function readerOf(path: readonly string[]): Reader {
  if (path.length === 0) return () => undefined;
  // Keys that hold the separator are read as they are: two paths would be taken for one.
  if (path.some((key) => key.includes(separator))) return (context) => steps(context, path);
  return known(path.join(separator));
}

const known: (key: string) => Reader = memo(1_000, (key, place) => makeReader(key.split(separator).map(intern), place));

/** The first eight paths of a process read at places of their own; later ones share. */
function makeReader(path: readonly string[], place: number): Reader {
  const [head, next, ...rest] = path as [string, ...string[]];
  if (next === undefined) return ofOneStep[place % ofOneStep.length]!(head);
  const read = ofTwoSteps[place % ofTwoSteps.length]!(head, next);
  return rest.length === 0 ? read : (context) => steps(read(context), rest);
}
