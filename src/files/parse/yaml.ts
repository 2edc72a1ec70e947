import {
  type Alias,
  Composer,
  type Document,
  isAlias,
  isMap,
  isScalar,
  isSeq,
  Lexer,
  type Node,
  type Pair,
  Parser,
  Scalar,
  type YAMLMap,
} from "yaml";
import type { Path } from "../../problems/index.ts";
import { isSpellingKept } from "../../source/index.ts";
import { limits } from "../../values/index.ts";
import { alignScalar } from "../places/align.ts";
import type { FileFault, Locator, ParsedText, TextRange } from "./parsed-file.ts";
import { boundedLexemes, OutOfBounds } from "./yaml-bounds.ts";
import { type AnyNode, escapePointer, firstLine, isExplicitTag, keyText, lowerFirst, rangeOf } from "./yaml-nodes.ts";

/**
 * Reads YAML 1.2 (core schema) into plain data. Keys are checked here rather than by the parser, whose check takes
 * time quadratic in the number of keys.
 */
export function parseYaml(text: string): ParsedText {
  const reader = new YamlReader(text);
  const data = reader.read();
  return { data, spellings: reader.spellings, faults: reader.faults };
}

export function locateYaml(text: string): Locator {
  const reader = new YamlReader(text);
  reader.read();
  return reader;
}

/** How definition files are read wherever they are; keys that stand twice are found by the reader itself. */
export const yamlOptions = {
  version: "1.2",
  schema: "core",
  uniqueKeys: false,
  merge: false,
  prettyErrors: false,
  logLevel: "silent",
} as const;

/** The documents of a text; what nests too deeply or holds too much is left before a tree of it stands. */
function* documentsIn(text: string): Generator<Document> {
  // What a parser keeps of a value takes a hundred times as much as the value. Where a text is long enough to hold too
  // many, they are counted first.
  if (text.length > 2 * limits.nodes) for (const _ of boundedLexemes(new Lexer().lex(text)));
  const parser = new Parser();
  const tokens = function* () {
    for (const lexeme of boundedLexemes(new Lexer().lex(text))) yield* parser.next(lexeme);
    yield* parser.end();
  };
  yield* new Composer(yamlOptions).compose(tokens(), false, text.length) as Generator<Document>;
}

class YamlReader implements Locator {
  readonly faults: FileFault[] = [];
  readonly spellings = new Map<string, string>();
  readonly #text: string;
  readonly #anchors = new Map<string, Node>();
  readonly #targets = new Map<Alias, Node>();
  readonly #open = new Set<Node>();
  /** The pairs of maps that were gone through once, however many of their keys are looked for. */
  readonly #pairs = new WeakMap<Node, ReadonlyMap<string, Pair>>();
  #root: AnyNode;
  #expansions = 0;
  #expanded = 0;
  #inAlias = 0;

  constructor(text: string) {
    this.#text = text;
  }

  read(): unknown {
    const documents = this.#parse();
    if (!documents) return undefined;
    const [first, second] = documents;
    if (!first) return undefined;
    if (second) this.#refuseSecondDocument(second);
    this.#refuseDirectives(first);
    this.#root = first.contents as AnyNode;
    const data = this.#value(this.#root, "", 1);
    return this.faults.length > 0 ? undefined : data;
  }

  #parse(): Document[] | undefined {
    try {
      const documents = [...documentsIn(this.#text)];
      const faults = documents.flatMap((d) => [...d.errors, ...d.warnings]);
      for (const { pos, message, code } of faults.slice(0, 20)) this.#syntaxFault(pos, message, code);
      return this.faults.length > 0 ? undefined : documents;
    } catch (error) {
      if (error instanceof OutOfBounds) this.faults.push(error.fault);
      else if (error instanceof RangeError) this.#refuseDepth();
      else throw error;
      return undefined;
    }
  }

  #refuseDepth(): void {
    this.#fault("too-deep", { start: 0, end: 1 }, "The file is nested too deeply to be read.", {
      expected: `at most ${limits.depth} levels`,
    });
  }

  #syntaxFault([start, end]: readonly [number, number], message: string, code: string): void {
    if (code === "RESOURCE_EXHAUSTION") return this.#refuseDepth();
    if (code === "TAG_RESOLVE_FAILED") {
      return this.#fault("yaml-feature", { start, end }, "Tags are not used in definitions.", {
        found: this.#text.slice(start, end),
      });
    }
    const line = this.#lineAround(start);
    const looksLikeCondition = /^\s*(?:- )?\s*(?:when|provided):/.test(line);
    this.#fault(
      "yaml-syntax",
      { start, end: Math.max(end, start + 1) },
      `This is not valid YAML: ${lowerFirst(message)}.`,
      {
        found: this.#text.slice(start, Math.min(end, start + 40)).split("\n")[0],
        help: looksLikeCondition ? "put the whole condition in single quotes" : undefined,
      },
    );
  }

  #lineAround(offset: number): string {
    const start = this.#text.lastIndexOf("\n", offset - 1) + 1;
    const end = this.#text.indexOf("\n", offset);
    return this.#text.slice(start, end < 0 ? undefined : end);
  }

  #refuseSecondDocument(second: Document): void {
    const start = second.range?.[0] ?? 0;
    this.#fault("yaml-feature", { start, end: start + 1 }, "A second document begins here.", {
      expected: "one document a file",
      help: "move it to a file of its own",
    });
  }

  #refuseDirectives(document: Document): void {
    const { directives } = document;
    if (!directives?.yaml.explicit || directives.yaml.version === "1.2") return;
    this.#fault("yaml-feature", { start: 0, end: 5 }, `This file asks for YAML ${directives.yaml.version}.`, {
      expected: "YAML 1.2",
      help: "take the %YAML line out",
    });
  }

  #value(node: AnyNode, at: string, depth: number): unknown {
    if (node === null || node === undefined) return null;
    if (isAlias(node)) return this.#alias(node, at, depth);
    if (node.tag !== undefined && isExplicitTag(node, this.#text)) this.#refuseTag(node);
    if (this.#inAlias > 0) this.#countExpansion(node);
    if (this.faults.length >= 100) return undefined;
    const anchor = (node as { anchor?: string }).anchor;
    if (anchor !== undefined) this.#anchors.set(anchor, node);
    if (isScalar(node)) return this.#scalar(node, at);
    if (depth > limits.depth) {
      this.#fault("too-deep", rangeOf(node), "The file is nested too deeply here.", {
        expected: `at most ${limits.depth} levels`,
      });
      return undefined;
    }
    this.#open.add(node);
    const data = isMap(node)
      ? this.#map(node.items as Pair[], at, depth)
      : isSeq(node)
        ? this.#list(node.items as AnyNode[], at, depth)
        : null;
    this.#open.delete(node);
    return data;
  }

  #list(items: readonly AnyNode[], at: string, depth: number): unknown[] {
    return items.map((item, i) => this.#value(item, `${at}/${i}`, depth + 1));
  }

  #map(pairs: readonly Pair[], at: string, depth: number): Record<string, unknown> {
    const object: Record<string, unknown> = {};
    const seen = new Map<string, Node>();
    for (const pair of pairs) {
      const key = this.#key(pair.key as AnyNode);
      if (key === undefined) continue;
      const earlier = seen.get(key);
      if (earlier) this.#refuseDuplicate(key, earlier, pair.key as Node);
      seen.set(key, pair.key as Node);
      const value = this.#value(pair.value as AnyNode, `${at}/${escapePointer(key)}`, depth + 1);
      // `__proto__` is a key like any other, so it must not be assigned.
      if (key === "__proto__")
        Object.defineProperty(object, key, { value, enumerable: true, writable: true, configurable: true });
      else object[key] = value;
    }
    return object;
  }

  #key(node: AnyNode): string | undefined {
    const scalar = isAlias(node) ? this.#targetOf(node) : node;
    if (!isScalar(scalar) || scalar.value === null) {
      this.#fault("key-not-text", rangeOf(scalar), "A key must be a text.", {
        found: isScalar(scalar) ? "nothing (null)" : "a list or an object",
      });
      return undefined;
    }
    if (scalar.tag !== undefined && isExplicitTag(scalar, this.#text)) this.#refuseTag(scalar);
    if (typeof scalar.value === "string" && scalar.anchor !== undefined) this.#anchors.set(scalar.anchor, scalar);
    const key = typeof scalar.value === "string" ? scalar.value : (scalar.source ?? String(scalar.value));
    if (key === "<<" && scalar.type === Scalar.PLAIN) {
      this.#fault("yaml-feature", rangeOf(scalar), "Merge keys are not used in definitions.", {
        found: "<<",
        help: "write the keys out",
      });
      return undefined;
    }
    return key;
  }

  #scalar(node: Scalar, at: string): unknown {
    const { value } = node;
    if (typeof value === "number" && !Number.isFinite(value)) {
      this.#fault("number-not-finite", rangeOf(node), "This number is not finite.", { found: node.source });
      return undefined;
    }
    const quoted = node.type !== Scalar.PLAIN;
    if (isSpellingKept(value, node.source ?? "", quoted)) this.spellings.set(at, node.source ?? "");
    return value;
  }

  #alias(alias: Alias, at: string, depth: number): unknown {
    const target = this.#targetOf(alias);
    if (!target) return undefined;
    if (this.#open.has(target)) {
      this.#fault("too-deep", rangeOf(alias), `The alias “*${alias.source}” stands inside what it names.`, {
        expected: "data that comes to an end",
      });
      return undefined;
    }
    if (++this.#expansions > limits.aliasExpansions) {
      if (this.#expansions === limits.aliasExpansions + 1) this.#refuseAliases(alias);
      return undefined;
    }
    this.#inAlias++;
    const value = this.#value(target, at, depth);
    this.#inAlias--;
    return value;
  }

  #targetOf(alias: Alias): Node | undefined {
    const known = this.#targets.get(alias);
    if (known) return known;
    const target = this.#anchors.get(alias.source);
    if (target) this.#targets.set(alias, target);
    else
      this.#fault("yaml-syntax", rangeOf(alias), `There is no anchor “&${alias.source}” before this alias.`, {
        found: `*${alias.source}`,
      });
    return target;
  }

  /** What aliases repeat counts as if it had been written out. */
  #countExpansion(node: Node): void {
    if (!isScalar(node)) return;
    const { start, end } = rangeOf(node);
    const before = this.#expanded;
    this.#expanded += end - start;
    if (before <= limits.fileBytes && this.#expanded > limits.fileBytes) this.#refuseAliases(node);
  }

  #refuseAliases(node: Node): void {
    this.#fault("too-many-aliases", rangeOf(node), "The aliases of this file expand to too much.", {
      expected: `at most ${limits.aliasExpansions} expansions, and no more than ${limits.fileBytes / 2 ** 20} MB in all`,
    });
  }

  #refuseTag(node: Node): void {
    const { start } = rangeOf(node);
    this.#fault("yaml-feature", { start, end: start + 1 }, "Tags are not used in definitions.", {
      found: node.tag,
      help: "take the tag out; quotes make a text, bare digits a number",
    });
  }

  #refuseDuplicate(key: string, earlier: Node, later: Node): void {
    this.#fault("duplicate-key", rangeOf(later), `The key “${key}” stands twice in one object.`, {
      found: key,
      expected: "each key once",
      related: { range: rangeOf(earlier), message: "the first one" },
    });
  }

  #fault(code: FileFault["code"], range: TextRange, message: string, details: Partial<FileFault> = {}): void {
    this.faults.push({ code, range, message, ...details });
  }

  locate(path: Path, part: "key" | "value", span: TextRange | undefined): TextRange {
    const { key, value } = this.#find(path);
    if (part === "key" && key) return rangeOf(key);
    if (!value) return key ? rangeOf(key) : { start: 0, end: 0 };
    const range = rangeOf(value);
    if (!span || !isScalar(value) || typeof value.value !== "string") return firstLine(range, this.#text);
    return alignScalar(this.#text, range, value.value, span);
  }

  after(path: Path): string {
    const { value } = this.#find(path);
    if (!isScalar(value) || value.type !== Scalar.PLAIN) return "";
    return this.#text.slice(rangeOf(value).end).split("\n")[0] ?? "";
  }

  /** The nodes of a path's key and value; where the path leads on into nothing, those of the last part that exists. */
  #find(path: Path): { key: AnyNode; value: AnyNode } {
    let key: AnyNode;
    let value: AnyNode = this.#root;
    for (const step of path) {
      const here = isAlias(value) ? this.#targets.get(value) : value;
      if (isMap(here)) {
        const pair = this.#pairsOf(here).get(String(step));
        if (!pair) break;
        key = pair.key as AnyNode;
        value = (pair.value as AnyNode) ?? key;
      } else if (isSeq(here)) {
        const item = here.items[Number(step)] as AnyNode;
        if (!item) break;
        key = item;
        value = item;
      } else {
        break;
      }
    }
    return { key, value };
  }

  #pairsOf(map: YAMLMap): ReadonlyMap<string, Pair> {
    const known = this.#pairs.get(map);
    if (known) return known;
    const pairs = new Map<string, Pair>();
    for (const pair of map.items as Pair[]) {
      const key = keyText(pair.key as AnyNode);
      if (key !== undefined && !pairs.has(key)) pairs.set(key, pair);
    }
    this.#pairs.set(map, pairs);
    return pairs;
  }
}
