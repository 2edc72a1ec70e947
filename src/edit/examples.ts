import { type Loaded, ToolError } from "../files/index.ts";
import { at } from "../problems/index.ts";
import { parseTime, sameData } from "../values/index.ts";
import { NothingToChange } from "./change-folder.ts";
import type { FileChange } from "./edit-session.ts";
import { editText } from "./edit-text.ts";
import { flagCalled } from "./find-flag.ts";
import { flagOrder, ordered } from "./flag-keys.ts";
import { givenValue } from "./read-values.ts";
import { mustBeEnvironment } from "./suspend.ts";

/** An example that must stay true, or one that need not any more. */
export interface ExampleRequest {
  readonly flag: string;
  /** The context. */
  readonly as?: Readonly<Record<string, unknown>> | undefined;
  /** An instant with Z or an offset. */
  readonly at?: string | undefined;
  readonly environment?: string | undefined;
  /** The value that is given, or the name of the variant, as a text. */
  readonly gives?: string | undefined;
  /** Says that what it holds of private attributes is of nobody: a draft may keep it. */
  readonly isMadeUp?: boolean | undefined;
  /** Stands in place of the example of this number, from 1. */
  readonly instead?: number | undefined;
  /** Takes the example of this number out, from 1. */
  readonly dropExample?: number | undefined;
}

/** The file of a flag with an example more, or one less. */
export function setExample(request: ExampleRequest, loaded: Loaded): FileChange {
  const flag = flagCalled(request.flag, loaded);
  const { file } = flag.place;
  const path = at(flag.place, "for-instance").path;
  const standing = flag.source["for-instance"] ?? [];
  const text = loaded.content.files.get(file)!.text;
  const meant = request.dropExample ?? request.instead;
  if (meant !== undefined && !standing[meant - 1])
    throw new ToolError(
      `${flag.name} has no example ${meant}.`,
      standing.length === 0 ? "it has no examples" : `write a number from 1 to ${standing.length}`,
    );
  if (request.dropExample !== undefined)
    return { file, text: editText(file, text, [{ edit: "remove", path: [...path, request.dropExample - 1] }]) };
  if (request.gives === undefined) throw new ToolError("What does the example give?", "say --gives and a value");
  if (request.environment !== undefined) mustBeEnvironment(request.environment, loaded);
  if (request.at !== undefined && Number.isNaN(parseTime(request.at)))
    throw new ToolError(`“${request.at}” is not an instant.`, "write 2026-12-05T12:00Z, or with an offset");
  const example = ordered(
    { as: request.as ?? {}, at: request.at, in: request.environment, gives: givenValue(request.gives, flag) },
    ["as", "at", "in", "gives"],
  );
  const same = standing.findIndex((each) => sameData({ ...each }, example));
  if (same >= 0) throw new NothingToChange(`Example ${same + 1} of ${flag.name} says so already.`);
  if (request.instead !== undefined)
    return {
      file,
      text: editText(file, text, [{ edit: "set", path: [...path, request.instead - 1], value: example }]),
    };
  if (standing.length === 0)
    return { file, text: editText(file, text, [{ edit: "set", path, value: [example], order: flagOrder }]) };
  return { file, text: editText(file, text, [{ edit: "insert", path, at: standing.length, values: [example] }]) };
}
