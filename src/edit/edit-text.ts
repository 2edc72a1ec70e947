import { parseText, ToolError } from "../files/index.ts";
import { sameData } from "../values/index.ts";
import { difference } from "./difference.ts";
import { dataAt, type Edit, editedData } from "./edit.ts";
import { editJson } from "./json-edit.ts";
import { editYaml } from "./yaml-edit.ts";

/**
 * Edits the text of a definition file and keeps everything else of it. The result is read again and must come to the
 * data that was meant; if it does not, nothing is given.
 *
 * @throws {ToolError} where the file is laid out in a way that cannot be edited
 */
export function editText(file: string, text: string, edits: readonly Edit[]): string {
  return edits.reduce((before, edit) => editFinely(file, before, edit), text);
}

/** What is set in the place of something else leaves as it is written what is the same in both. */
function editFinely(file: string, text: string, edit: Edit): string {
  const standing = edit.edit === "set" ? dataAt(parseText(file, text).data, edit.path) : undefined;
  if (edit.edit !== "set" || typeof standing !== "object" || standing === null) return editOnce(file, text, edit);
  const edits = difference(edit.path, standing, edit.value);
  try {
    return edits.reduce((before, each) => editOnce(file, before, each), text);
  } catch (error) {
    // Laid out in a way that can be replaced only whole.
    if (error instanceof ToolError) return editOnce(file, text, edit);
    throw error;
  }
}

function editOnce(file: string, text: string, edit: Edit): string {
  const expected = editedData(parseText(file, text).data, edit);
  const after = file.endsWith(".json") ? editJson(text, edit) : editYaml(text, edit);
  const parsed = after === undefined ? undefined : parseText(file, after);
  if (after !== undefined && parsed!.faults.length === 0 && sameData(parsed!.data, expected)) return after;
  throw new ToolError(
    `${file} is laid out in a way that cannot be edited here without disturbing it (${edit.path.join(" › ")}).`,
    "edit the file by hand; nothing was written",
  );
}
