import { CST } from "yaml";
import { limits } from "../../values/index.ts";
import { tooDeep, tooManyNodes } from "./bounds.ts";
import type { FileFault } from "./parsed-file.ts";

const { DOCUMENT, FLOW_END, SCALAR, tokenType } = CST;

/** Thrown while a text is being parsed, before a tree of it stands. */
export class OutOfBounds extends Error {
  readonly fault: FileFault;

  constructor(fault: FileFault) {
    super(fault.message);
    this.fault = fault;
  }
}

/**
 * Nesting beyond this is refused before a tree stands. It is counted roughly, and so twice as much is let through: the
 * exact limit is kept on the tree.
 */
const roughDepth = 2 * limits.depth + 2;

/** Hands the lexemes of a YAML text on, as long as they nest no deeper and are no more than they may be. */
export function* boundedLexemes(lexemes: Iterable<string>): Generator<string> {
  const nesting = new Nesting();
  let [offset, column] = [0, 0];
  for (const lexeme of lexemes) {
    nesting.take(lexeme, column);
    if (nesting.depth > roughDepth) throw new OutOfBounds(tooDeep(offset));
    if (nesting.nodes > limits.nodes) throw new OutOfBounds(tooManyNodes(offset));
    yield lexeme;
    // What the lexer puts in between by itself stands nowhere in the text.
    if (isMark(lexeme)) continue;
    const lineEnd = lexeme.lastIndexOf("\n");
    column = lineEnd < 0 ? column + lexeme.length : lexeme.length - lineEnd - 1;
    offset += lexeme.length;
  }
}

/** What is open after a lexeme, by and large. */
class Nesting {
  nodes = 0;
  #flow = 0;
  /** The columns at which block structures that are still open began. */
  readonly #blocks: number[] = [];
  /** Where a key may have begun. */
  #key = 0;

  get depth(): number {
    return this.#flow + this.#blocks.length;
  }

  take(lexeme: string, column: number): void {
    switch (tokenType(lexeme)) {
      case "flow-map-start":
      case "flow-seq-start":
        this.#flow++;
        this.nodes++;
        break;
      case "flow-map-end":
      case "flow-seq-end":
        this.#flow = Math.max(0, this.#flow - 1);
        break;
      case "seq-item-ind":
      case "explicit-key-ind":
        this.nodes++;
        this.#open(column);
        break;
      case "map-value-ind":
        this.#open(this.#key);
        break;
      case "scalar":
      case "alias":
      case "anchor":
      case "tag":
        this.nodes++;
        this.#key = column;
        break;
    }
  }

  #open(at: number): void {
    if (this.#flow > 0) return;
    const blocks = this.#blocks;
    while (blocks.length > 0 && blocks.at(-1)! > at) blocks.pop();
    if (blocks.at(-1) !== at) blocks.push(at);
  }
}

function isMark(lexeme: string): boolean {
  return lexeme === DOCUMENT || lexeme === FLOW_END || lexeme === SCALAR;
}
