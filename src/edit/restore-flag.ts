import { Git, ToolError } from "../files/index.ts";
import type { Path } from "../problems/index.ts";
import { loadCommit } from "../study/index.ts";
import { NothingToChange } from "./change-folder.ts";
import { difference } from "./difference.ts";
import { dataAt } from "./edit.ts";
import type { EditSession, FileChange } from "./edit-session.ts";
import { editText } from "./edit-text.ts";
import { flagOrder, ruleOrder } from "./flag-keys.ts";

/** Which flag is made as it was. */
export interface RestoreRequest {
  readonly flag: string;
  /** A revision of the repository around the folder. */
  readonly commit: string;
}

/** The file of a flag with what is defined of it as a commit holds it; what is the same stays as it is written. */
export async function restoreFlag(
  { flag: name, commit: revision }: RestoreRequest,
  work: EditSession,
): Promise<FileChange> {
  const { content, definitions } = work.loaded;
  const git = await Git.around(content.source.root ?? ".");
  const commit = await git.commit(revision);
  if (commit === undefined) throw new ToolError(`There is no revision “${revision}”.`, "see iudex history");
  const earlier = await loadCommit(git, commit);
  const was = earlier.definitions?.flags.get(name);
  if (!was) throw new ToolError(`There is no flag “${name}” in ${commit.slice(0, 10)}.`, "choose another revision");
  const wanted = dataAt(earlier.content.files.get(was.file)?.parsed.data, was.place.path);
  const is = definitions?.flags.get(name);
  if (!is) {
    const text = content.files.get(was.file)?.text ?? "iudex: 1\n";
    return {
      file: was.file,
      text: editText(was.file, text, [{ edit: "set", path: ["flags", name], value: wanted, lines: true }]),
    };
  }
  const { file, text } = { file: is.file, text: content.files.get(is.file)!.text };
  const edits = difference(is.place.path, dataAt(content.files.get(file)!.parsed.data, is.place.path), wanted, orderAt);
  if (edits.length === 0) throw new NothingToChange(`${name} is as it was then.`);
  return { file, text: editText(file, text, edits) };
}

const orders: Readonly<Record<string, readonly string[]>> = { flags: flagOrder, rules: ruleOrder };

function orderAt(path: Path): readonly string[] {
  return orders[String(path.at(-2))] ?? [];
}
