import { isAlias, isMap, isScalar, isSeq, type Node, type Pair, parseDocument, Scalar, type YAMLMap } from "yaml";
import { yamlOptions } from "../files/index.ts";
import type { Path } from "../problems/index.ts";
import type { Edit } from "./edit.ts";
import { placeAmong } from "./key-order.ts";
import { inline, inlinePair, itemLines, pairLines } from "./yaml-values.ts";

/**
 * Edits YAML text in place: only the characters that say something else are replaced, so that comments, order,
 * quoting and layout stay as their writer left them. Undefined where the text cannot be edited this way.
 */
export function editYaml(text: string, edit: Edit): string | undefined {
  const editor = new YamlEditor(text);
  switch (edit.edit) {
    case "set":
      return editor.set(edit.path, edit.value, edit);
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

type SetOptions = Pick<Extract<Edit, { edit: "set" }>, "order" | "lines">;

type AnyNode = Node | null | undefined;

interface Found {
  readonly pair: Pair | undefined;
  readonly node: AnyNode;
}

class YamlEditor {
  readonly #text: string;
  readonly #root: AnyNode;
  readonly #newline: string;

  constructor(text: string) {
    this.#text = text;
    this.#newline = text.includes("\r\n") ? "\r\n" : "\n";
    this.#root = parseDocument(text, yamlOptions).contents as AnyNode;
  }

  set(path: Path, value: unknown, { order = [], lines = false }: SetOptions = {}): string | undefined {
    for (let depth = path.length; depth > 0; depth--) {
      const found = this.#find(path.slice(0, depth));
      if (!found) continue;
      if (depth === path.length) return this.#replace(found, value);
      const rest = path.slice(depth);
      const inner = rest.slice(1).reduceRight<unknown>((held, key) => ({ [key]: held }), value);
      const key = String(rest[0]);
      if (isEmpty(found.node) || isEmptyMap(found.node))
        return this.#fill(path.slice(0, depth), found, key, inner, lines);
      return isMap(found.node)
        ? this.#insert(found.node, key, inner, { order: depth === path.length - 1 ? order : [], lines })
        : undefined;
    }
    if (!isMap(this.#root)) return undefined;
    const inner = path.slice(1).reduceRight<unknown>((held, key) => ({ [key]: held }), value);
    return this.#insert(this.#root, String(path[0]), inner, { order: path.length === 1 ? order : [], lines });
  }

  rename(path: Path, to: string): string | undefined {
    const key = this.#find(path)?.pair?.key;
    if (!isScalar(key)) return undefined;
    const [start, end] = key.range!;
    return this.#splice(start, end, inline(to, key.type));
  }

  /** Puts items into a list, laid out as those that are there. */
  insert(path: Path, at: number, values: readonly unknown[]): string | undefined {
    const list = this.#find(path)?.node;
    if (!isSeq(list) || list.items.length === 0) return undefined;
    const items = list.items as Node[];
    if (list.flow) return this.#insertInFlowList(items, at, values.map((value) => inline(value)).join(", "));
    const isOneLine = items.every((item) => isMap(item) && item.flow);
    const indent = this.#dashOf(items[0]!) - this.#lineStart(this.#dashOf(items[0]!));
    const lines = values
      .flatMap((value) => (isOneLine ? [`- ${inline(value)}`] : itemLines(value)))
      .map((line) => `${" ".repeat(indent)}${line}${this.#newline}`)
      .join("");
    const before = items[at];
    const place = before ? this.#withComments(this.#lineStart(this.#dashOf(before))) : this.#afterLine(items.at(-1)!);
    const isCut = place > 0 && this.#text[place - 1] !== "\n";
    return this.#splice(place, place, `${isCut ? this.#newline : ""}${lines}`);
  }

  #insertInFlowList(items: readonly Node[], at: number, text: string): string {
    const before = items[at];
    if (before) return this.#splice(before.range![0], before.range![0], `${text}, `);
    const end = this.#endOf(items.at(-1)!);
    return this.#splice(end, end, `, ${text}`);
  }

  /** Where the dash in front of an item of a block list stands. */
  #dashOf(item: Node): number {
    return this.#text.lastIndexOf("-", item.range![0] - 1);
  }

  /** The start of the line behind a node. */
  #afterLine(node: Node): number {
    return Math.min(this.#lineEnd(this.#endOf(node)) + this.#newline.length, this.#text.length);
  }

  remove(path: Path): string | undefined {
    const found = this.#find(path);
    if (typeof path.at(-1) === "number") return this.#removeItem(path);
    const holder = path.length === 1 ? { pair: undefined, node: this.#root } : this.#find(path.slice(0, -1));
    if (!found?.pair || !isMap(holder?.node)) return undefined;
    const pairs = holder.node.items as Pair[];
    const index = pairs.indexOf(found.pair);
    if (holder.node.flow) return this.#removeFromFlow(holder.node, pairs, index);
    return this.#removeLines(found.pair, pairs.length === 1 ? holder.pair : undefined, pairs[index + 1]);
  }

  /** An item goes with the comments above it; the last one leaves an empty list. */
  #removeItem(path: Path): string | undefined {
    const holder = this.#find(path.slice(0, -1));
    const list = holder?.node;
    if (!isSeq(list)) return undefined;
    const items = list.items as Node[];
    const index = Number(path.at(-1));
    if (items.length === 1) return this.#replace(holder!, []);
    if (!list.flow) {
      const from = this.#withComments(this.#lineStart(this.#dashOf(items[index]!)));
      return this.#splice(from, this.#afterLine(items[index]!), "");
    }
    const next = items[index + 1];
    if (next) return this.#splice(items[index]!.range![0], next.range![0], "");
    return this.#splice(this.#endOf(items[index - 1]!), this.#endOf(items[index]!), "");
  }

  /** An object on lines of its own goes behind a dash, its comments with it. */
  enlist(path: Path): string | undefined {
    const node = this.#find(path)?.node;
    if (!node || isAlias(node) || isEmpty(node)) return undefined;
    const [start] = node.range!;
    const end = this.#endOf(node);
    if (!isMap(node) || node.flow) return this.#splice(start, end, `[${this.#text.slice(start, end)}]`);
    const [first, ...others] = this.#text.slice(start, end).split("\n");
    const indented = others.map((line) => (line.trim() === "" ? line : `  ${line}`));
    return this.#splice(start, end, [`- ${first}`, ...indented].join("\n"));
  }

  move(path: Path, from: number, to: number): string | undefined {
    const list = this.#find(path)?.node;
    if (!isSeq(list)) return undefined;
    const items = list.items as Node[];
    return list.flow ? this.#moveInFlow(items, from, to) : this.#moveLines(items, from, to);
  }

  #find(path: Path): Found | undefined {
    let pair: Pair | undefined;
    let node = this.#root;
    for (const step of path) {
      if (isMap(node)) {
        pair = (node.items as Pair[]).find(({ key }) => isScalar(key) && String(key.value) === String(step));
        if (!pair) return undefined;
        node = pair.value as AnyNode;
      } else if (isSeq(node)) {
        node = node.items[Number(step)] as AnyNode;
        if (!node) return undefined;
        pair = undefined;
      } else {
        return undefined;
      }
    }
    return { pair, node };
  }

  #replace({ pair, node }: Found, value: unknown): string | undefined {
    if (isAlias(node)) return undefined;
    const isBlock = (isMap(node) || isSeq(node)) && !node.flow;
    const isBlockText = isScalar(node) && (node.type === Scalar.BLOCK_FOLDED || node.type === Scalar.BLOCK_LITERAL);
    if (node && !isBlock && !isBlockText && !isEmpty(node)) {
      const [start, end] = node.range!;
      return this.#splice(start, end, inline(value, isScalar(node) ? node.type : undefined));
    }
    if (!pair) return undefined;
    const colon = this.#colonOf(pair);
    const end = node && !isEmpty(node) ? this.#endOf(node) : colon + 1;
    return this.#splice(colon + 1, end, ` ${inline(value)}`);
  }

  /** The first pair of an object that holds nothing yet: on a line of its own where its holder has lines. */
  #fill(path: Path, found: Found, key: string, value: unknown, lines: boolean): string | undefined {
    const holder = path.length === 1 ? this.#root : this.#find(path.slice(0, -1))?.node;
    if (!found.pair || !isMap(holder) || holder.flow) return this.#replace(found, { [key]: value });
    const start = (found.pair.key as Node).range![0];
    const colon = this.#colonOf(found.pair);
    const end = isEmpty(found.node) ? colon + 1 : this.#endOf(found.node!);
    const indent = `${this.#newline}${" ".repeat(start - this.#lineStart(start) + 2)}`;
    return this.#splice(colon + 1, end, indent + pairLines(key, value, lines).join(indent));
  }

  #insert(map: YAMLMap, key: string, value: unknown, { order = [], lines = false }: SetOptions): string | undefined {
    const pairs = map.items as Pair[];
    const place = placeAmong(
      pairs.map((pair) => String((pair.key as Scalar).value)),
      key,
      order,
    );
    if (map.flow) return this.#insertInFlow(map, pairs, place, inlinePair(key, value));
    const first = (pairs[0]!.key as Node).range![0];
    const indent = " ".repeat(first - this.#lineStart(first));
    const text = pairLines(key, value, lines).join(`${this.#newline}${indent}`);
    if (place === 0) return this.#splice(first, first, `${text}${this.#newline}${indent}`);
    const before = pairs[place - 1]!;
    const end = this.#lineEnd(this.#endOf((before.value as AnyNode) ?? (before.key as Node)));
    const gap = lines && this.#isParted(pairs) ? this.#newline : "";
    return this.#splice(end, end, `${gap}${this.#newline}${indent}${text}`);
  }

  /** Whether there is a blank line between the members of a section. */
  #isParted(pairs: readonly Pair[]): boolean {
    return pairs.slice(1).some(({ key }) => {
      const start = this.#withComments(this.#lineStart((key as Node).range![0]));
      return this.#text.slice(this.#lineStart(start - 1), start).trim() === "";
    });
  }

  #insertInFlow(map: YAMLMap, pairs: readonly Pair[], place: number, text: string): string {
    const [start, end] = map.range!;
    if (pairs.length === 0) return this.#splice(start, end, `{ ${text} }`);
    const before = pairs[place - 1];
    if (!before) {
      const first = (pairs[0]!.key as Node).range![0];
      return this.#splice(first, first, `${text}, `);
    }
    const at = this.#endOf((before.value as AnyNode) ?? (before.key as Node));
    return this.#splice(at, at, `, ${text}`);
  }

  #removeFromFlow(map: YAMLMap, pairs: readonly Pair[], index: number): string {
    const start = (pair: Pair) => (pair.key as Node).range![0];
    const end = (pair: Pair) => this.#endOf((pair.value as AnyNode) ?? (pair.key as Node));
    const pair = pairs[index]!;
    const next = pairs[index + 1];
    const previous = pairs[index - 1];
    if (next) return this.#splice(start(pair), start(next), "");
    if (previous) return this.#splice(end(previous), end(pair), "");
    return this.#splice(map.range![0], map.range![1], "{}");
  }

  /** The last pair of an object leaves `{}` behind it. */
  #removeLines(pair: Pair, holder: Pair | undefined, next: Pair | undefined): string | undefined {
    const start = (pair.key as Node).range![0];
    const from = this.#lineStart(start);
    const lead = this.#text.slice(from, start);
    // The first key of a list's item: the next one takes its place behind the dash.
    if (/^\s*(?:- +)+$/.test(lead) && next) return this.#splice(start, (next.key as Node).range![0], "");
    if (lead.trim() !== "") return undefined;
    const to = this.#lineEnd(this.#endOf((pair.value as AnyNode) ?? (pair.key as Node)));
    const without = this.#splice(from, Math.min(to + this.#newline.length, this.#text.length), "");
    if (!holder) return without;
    const colon = this.#colonOf(holder);
    return `${without.slice(0, colon + 1)} {}${without.slice(colon + 1)}`;
  }

  #moveInFlow(items: readonly Node[], from: number, to: number): string {
    const texts = items.map(({ range }) => this.#text.slice(range![0], range![1]));
    const [moved] = texts.splice(from, 1);
    texts.splice(to, 0, moved!);
    let result = this.#text;
    for (let i = items.length - 1; i >= 0; i--) {
      const [start, end] = items[i]!.range!;
      result = `${result.slice(0, start)}${texts[i]}${result.slice(end)}`;
    }
    return result;
  }

  /** Items go with the comments above them. */
  #moveLines(items: readonly Node[], from: number, to: number): string {
    const bounds = [this.#withComments(this.#lineStart(this.#text.lastIndexOf("-", items[0]!.range![0])))];
    for (const item of items) {
      bounds.push(Math.min(this.#lineEnd(this.#endOf(item)) + this.#newline.length, this.#text.length));
    }
    const chunks = items.map((_, i) => withNewline(this.#text.slice(bounds[i], bounds[i + 1]), this.#newline));
    const [moved] = chunks.splice(from, 1);
    chunks.splice(to, 0, moved!);
    return this.#splice(bounds[0]!, bounds.at(-1)!, chunks.join(""));
  }

  /** The start of the comment lines right above a line. */
  #withComments(lineStart: number): number {
    let from = lineStart;
    while (from > 0) {
      const above = this.#lineStart(from - 1);
      if (!this.#text.slice(above, from).trimStart().startsWith("#")) break;
      from = above;
    }
    return from;
  }

  #colonOf({ key }: Pair): number {
    return this.#text.indexOf(":", (key as Node).range![1]);
  }

  /** Where a node's own text ends: that of a block is the end of what it holds last. */
  #endOf(node: Node): number {
    if (isMap(node) && !node.flow && node.items.length > 0) {
      const last = node.items.at(-1) as Pair;
      return last.value ? this.#endOf(last.value as Node) : this.#colonOf(last) + 1;
    }
    if (isSeq(node) && !node.flow && node.items.length > 0) return this.#endOf(node.items.at(-1) as Node);
    const [start, end] = node.range!;
    return start + this.#text.slice(start, end).trimEnd().length;
  }

  #lineStart(offset: number): number {
    return this.#text.lastIndexOf("\n", offset - 1) + 1;
  }

  /** Before the line's break. */
  #lineEnd(offset: number): number {
    const end = this.#text.indexOf("\n", offset);
    if (end < 0) return this.#text.length;
    return this.#text[end - 1] === "\r" ? end - 1 : end;
  }

  #splice(start: number, end: number, text: string): string {
    return this.#text.slice(0, start) + text + this.#text.slice(end);
  }
}

function isEmpty(node: AnyNode): boolean {
  return !node || (isScalar(node) && node.value === null && (node.source ?? "") === "");
}

function isEmptyMap(node: AnyNode): boolean {
  return isMap(node) && node.items.length === 0;
}

function withNewline(text: string, newline: string): string {
  return text.endsWith("\n") ? text : text + newline;
}
