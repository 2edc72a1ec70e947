import { applyEdits, findNodeAtLocation, getNodeValue, modify, parseTree } from "jsonc-parser";
import type { Edit } from "./edit.ts";
import { placeAmong } from "./key-order.ts";

/** Edits JSON text in place; the rest of the text stays as it is. */
export function editJson(text: string, edit: Edit): string {
  const path = [...edit.path];
  if (edit.edit === "move") {
    const list = parseTree(text);
    const node = list && findNodeAtLocation(list, path);
    const items = [...(getNodeValue(node!) as unknown[])];
    const [item] = items.splice(edit.from, 1);
    items.splice(edit.to, 0, item);
    return change(text, path, items);
  }
  return change(
    text,
    path,
    edit.edit === "remove" ? undefined : edit.value,
    edit.edit === "set" ? edit.order : undefined,
  );
}

function change(text: string, path: (string | number)[], value: unknown, order?: readonly string[]): string {
  const indent = /^[ \t]+/m.exec(text)?.[0] ?? "  ";
  const formattingOptions = {
    insertSpaces: !indent.startsWith("\t"),
    tabSize: indent.startsWith("\t") ? 1 : indent.length,
    eol: text.includes("\r\n") ? "\r\n" : "\n",
  };
  const key = String(path.at(-1));
  const getInsertionIndex = order && ((keys: string[]) => placeAmong(keys, key, order));
  return applyEdits(
    text,
    modify(text, path, value, { formattingOptions, ...(getInsertionIndex ? { getInsertionIndex } : {}) }),
  );
}
