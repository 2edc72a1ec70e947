import { type Loaded, ToolError } from "../files/index.ts";
import type { FlagDefinition } from "../model/index.ts";
import { didYouMean, isName, nameRule, noSuch } from "../values/index.ts";

/** @throws {ToolError} if nobody defines it, or the definitions cannot be used */
export function flagCalled(name: string, { definitions }: Loaded): FlagDefinition {
  if (!definitions) throw new ToolError("The definitions cannot be used as they are.", "mend them first: iudex check");
  const flag = definitions.flags.get(name);
  if (flag) return flag;
  throw new ToolError(noSuch("flag", name), didYouMean(name, definitions.flags.keys()) ?? "see iudex list");
}

/** @throws {ToolError} for a name that a new flag cannot have */
export function mustBeFree(name: string, { definitions }: Loaded): void {
  if (!isName(name)) throw new ToolError(`“${name}” is not a name of a flag.`, nameRule);
  const known = definitions?.flags.get(name);
  if (known) throw new ToolError(`There is a flag “${name}” already, in ${known.file}.`, "choose another name");
}
