import { parseText, ToolError } from "../../folder/index.ts";
import { sameData } from "../../values/index.ts";
import { type Edit, editedData } from "./edit.ts";
import { editJson } from "./json-edit.ts";
import { editYaml } from "./yaml-edit.ts";

/**
 * Edits the text of a definition file and keeps everything else of it. The result is read again and must come to the
 * data that was meant; if it does not, nothing is given.
 *
 * @throws {ToolError} where the file is laid out in a way that cannot be edited
 */
export function editText(file: string, text: string, edits: readonly Edit[]): string {
  return edits.reduce((before, edit) => editOnce(file, before, edit), text);
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
