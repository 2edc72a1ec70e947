import { findNodeAtLocation, type Node, parseTree } from "jsonc-parser";
import type { Path } from "../problems/index.ts";
import type { Edit } from "./edit.ts";
import { placeAmong } from "./key-order.ts";

/** Edits JSON text in place: only the characters that say something else are replaced. */
export function editJson(text: string, edit: Edit): string | undefined {
  const editor = new JsonEditor(text);
  switch (edit.edit) {
    case "set":
      return editor.set(edit.path, edit.value, edit.order ?? []);
    case "remove":
      return editor.remove(edit.path);
    case "rename":
      return editor.rename(edit.path, edit.to);
    case "insert":
      return editor.insert(edit.path, edit.at, edit.values);
    case "enlist":
      return editor.enlist(edit.path);
    case "move":
      return editor.move(edit.path, edit.from, edit.to);
  }
}

class JsonEditor {
  readonly #text: string;
  readonly #root: Node | undefined;
  /** One step of indentation. */
  readonly #unit: string;
  readonly #newline: string;

  constructor(text: string) {
    this.#text = text;
    this.#root = parseTree(text);
    this.#unit = /^[ \t]+/m.exec(text)?.[0] ?? "  ";
    this.#newline = text.includes("\r\n") ? "\r\n" : "\n";
  }

  set(path: Path, value: unknown, order: readonly string[]): string | undefined {
    const node = this.#at(path);
    if (node) return this.#splice(node.offset, endOf(node), this.#written(value, this.#indentOf(node)));
    let depth = path.length - 1;
    while (depth > 0 && !this.#at(path.slice(0, depth))) depth--;
    const holder = this.#at(path.slice(0, depth));
    if (holder?.type !== "object") return undefined;
    const key = String(path[depth]);
    const inner = path.slice(depth + 1).reduceRight<unknown>((held, step) => ({ [step]: held }), value);
    const keys = (holder.children ?? []).map(({ children }) => String(children![0]!.value));
    const place = placeAmong(keys, key, depth === path.length - 1 ? order : []);
    return this.#put(holder, place, [(indent) => `${JSON.stringify(key)}: ${this.#written(inner, indent)}`]);
  }

  rename(path: Path, to: string): string | undefined {
    const key = this.#at(path)?.parent?.children?.[0];
    return key && this.#splice(key.offset, endOf(key), JSON.stringify(to));
  }

  insert(path: Path, at: number, values: readonly unknown[]): string | undefined {
    const list = this.#at(path);
    if (list?.type !== "array") return undefined;
    return this.#put(
      list,
      at,
      values.map((value) => (indent) => this.#written(value, indent)),
    );
  }

  enlist(path: Path): string | undefined {
    const node = this.#at(path);
    return node && this.#splice(node.offset, endOf(node), `[${this.#text.slice(node.offset, endOf(node))}]`);
  }

  /** A member goes with the comma that parts it from its neighbour. */
  remove(path: Path): string | undefined {
    const holder = this.#at(path.slice(0, -1));
    const value = this.#at(path);
    if (!holder?.children || !value) return undefined;
    const members = holder.children;
    const index = members.findIndex((each) => each === value.parent || each === value);
    const [before, member, after] = [members[index - 1], members[index]!, members[index + 1]];
    if (before) return this.#splice(endOf(before), endOf(member), "");
    if (after) return this.#splice(member.offset, after.offset, "");
    return this.#splice(holder.offset + 1, endOf(holder) - 1, "");
  }

  /** Items change places as they are written. */
  move(path: Path, from: number, to: number): string | undefined {
    const items = this.#at(path)?.children;
    if (!items) return undefined;
    const texts = items.map((item) => this.#text.slice(item.offset, endOf(item)));
    const [moved] = texts.splice(from, 1);
    texts.splice(to, 0, moved!);
    return items.reduceRight(
      (text, { offset, length }, i) => text.slice(0, offset) + texts[i] + text.slice(offset + length),
      this.#text,
    );
  }

  #at(path: Path): Node | undefined {
    return this.#root && findNodeAtLocation(this.#root, [...path]);
  }

  /** Puts members among those that are there, parted as those are. */
  #put(holder: Node, place: number, members: readonly ((indent: string | undefined) => string)[]): string {
    const [first, second] = holder.children ?? [];
    if (!first) return this.#fill(holder, members);
    const lead = this.#text.slice(holder.offset + 1, first.offset);
    const indent = lead.includes("\n") ? lead.slice(lead.lastIndexOf("\n") + 1) : undefined;
    const gap = second ? this.#text.slice(endOf(first), second.offset) : `,${indent === undefined ? " " : lead}`;
    const texts = members.map((member) => member(indent));
    const before = holder.children![place - 1];
    return before
      ? this.#splice(endOf(before), endOf(before), texts.map((text) => gap + text).join(""))
      : this.#splice(first.offset, first.offset, texts.map((text) => text + gap).join(""));
  }

  /** The first members of what was empty have lines of their own where what is around them has. */
  #fill(holder: Node, members: readonly ((indent: string | undefined) => string)[]): string {
    const outer = this.#indentOf(holder);
    const [open, close] = holder.type === "array" ? "[]" : "{}";
    if (outer === undefined) {
      const texts = members.map((member) => member(undefined)).join(", ");
      return this.#splice(holder.offset, endOf(holder), holder.type === "array" ? `[${texts}]` : `{ ${texts} }`);
    }
    const indent = outer + this.#unit;
    const lines = members.map((member) => this.#newline + indent + member(indent)).join(",");
    return this.#splice(holder.offset, endOf(holder), `${open}${lines}${this.#newline}${outer}${close}`);
  }

  /** The indentation of the line on which a member begins; undefined if it does not begin its line. */
  #indentOf(node: Node): string | undefined {
    const { offset } = node.parent?.type === "property" ? node.parent : node;
    const lead = this.#text.slice(this.#text.lastIndexOf("\n", offset - 1) + 1, offset);
    return lead.trim() === "" && this.#text.includes("\n") ? lead : undefined;
  }

  /** @param indent of the line on which it begins; undefined writes it on one line */
  #written(value: unknown, indent: string | undefined): string {
    if (indent === undefined) return JSON.stringify(value);
    return JSON.stringify(value, undefined, this.#unit).replaceAll("\n", this.#newline + indent);
  }

  #splice(start: number, end: number, text: string): string {
    return this.#text.slice(0, start) + text + this.#text.slice(end);
  }
}

function endOf({ offset, length }: Node): number {
  return offset + length;
}
