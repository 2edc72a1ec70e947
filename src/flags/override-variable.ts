/** A value as somebody wrote it; what it means depends on the type of the flag. */
export class Written {
  readonly text: string;

  constructor(text: string) {
    this.text = text;
  }

  /** A text: a JSON string, or what stands there. */
  get asText(): string {
    const value = this.asData;
    return typeof value === "string" ? value : this.text;
  }

  /** A JSON value where it is one, else a text. */
  get asData(): unknown {
    try {
      return JSON.parse(this.text);
    } catch {
      return this.text;
    }
  }
}

export interface ReadVariable {
  readonly values: ReadonlyMap<string, Written>;
  /** What could not be read, each in a sentence. */
  readonly faults: readonly string[];
}

/**
 * Reads the variable IUDEX_OVERRIDES: `storm-mode=true, seat-map=deck`. A text that holds a comma or `=` is written as a
 * JSON string.
 *
 * @example readOverrideVariable('motto="calm, then fair"').values.get("motto")?.asText // "calm, then fair"
 */
export function readOverrideVariable(text: string): ReadVariable {
  const values = new Map<string, Written>();
  const faults: string[] = [];
  for (const piece of pieces(text)) {
    const equals = piece.indexOf("=");
    const name = piece.slice(0, equals).trim();
    const written = piece.slice(equals + 1).trim();
    if (equals < 0 || name === "" || written === "")
      faults.push(`IUDEX_OVERRIDES: “${piece.trim()}” is not “flag=value”.`);
    else if (values.has(name)) faults.push(`IUDEX_OVERRIDES: “${name}” stands there twice; the first one holds.`);
    else values.set(name, new Written(written));
  }
  return { values, faults };
}

/** Cuts at commas that are not inside a JSON string, list or object. */
function pieces(text: string): string[] {
  const found: string[] = [];
  let depth = 0;
  let start = 0;
  for (let i = 0; i < text.length; i++) {
    const c = text[i]!;
    if (c === '"') i = endOfString(text, i);
    else if (c === "[" || c === "{") depth++;
    else if (c === "]" || c === "}") depth--;
    else if (c === "," && depth <= 0) {
      found.push(text.slice(start, i));
      start = i + 1;
    }
  }
  found.push(text.slice(start));
  return found.filter((piece) => piece.trim() !== "");
}

function endOfString(text: string, start: number): number {
  let i = start + 1;
  while (i < text.length && text[i] !== '"') i += text[i] === "\\" ? 2 : 1;
  return i;
}
