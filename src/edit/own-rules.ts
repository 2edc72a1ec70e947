import { type Loaded, ToolError } from "../files/index.ts";
import { flagIn, settingsIn } from "../model/index.ts";
import { at } from "../problems/index.ts";
import { NothingToChange } from "./change-folder.ts";
import type { Edit } from "./edit.ts";
import type { FileChange } from "./edit-session.ts";
import { editText } from "./edit-text.ts";
import { flagCalled } from "./find-flag.ts";
import { settingsOrder } from "./flag-keys.ts";
import { mustBeEnvironment } from "./suspend.ts";

/** Which environment gets rules of its own. */
export interface OwnRulesRequest {
  readonly flag: string;
  readonly environment: string;
}

/**
 * The file of a flag with the rules as they stand in an environment copied into it: from then on they are that
 * environment's own, and what is changed of the common ones does not reach it.
 */
export function ownRules({ flag: name, environment }: OwnRulesRequest, loaded: Loaded): FileChange {
  const flag = flagCalled(name, loaded);
  mustBeEnvironment(environment, loaded);
  const settings = settingsIn(flag, environment);
  if (settings?.rules !== undefined)
    throw new NothingToChange(`${name} has rules of its own in ${environment} already.`);
  const { rules } = flagIn(flag, environment);
  if (rules.length === 0) throw new ToolError(`${name} has no rules to copy.`, "add a rule first");
  const path = at(flag.place, "environments", environment).path;
  const value = rules.map(({ source }) => source);
  const edits: Edit[] = [{ edit: "set", path: [...path, "rules"], value, order: settingsOrder, lines: true }];
  if (settings?.adjust !== undefined) edits.push({ edit: "remove", path: [...path, "adjust"] });
  const { file } = flag.place;
  return { file, text: editText(file, loaded.content.files.get(file)!.text, edits) };
}
