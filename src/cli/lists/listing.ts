import { showInstant } from "../../calendar/index.ts";
import { wrap } from "../../files/index.ts";
import type { NodeKey, Use } from "../../model/index.ts";
import { type Definitions, shortRevision } from "../../model/index.ts";
import { printable } from "../../values/index.ts";
import { count, explanationPaint } from "../output.ts";

export interface ListRequest {
  readonly definitions: Definitions;
  /** One environment; every one if undefined. */
  readonly environment: string | undefined;
  /** Epoch milliseconds. */
  readonly at: number;
  readonly colour: boolean;
}

export interface Listing {
  readonly text: string;
  readonly data: object;
}

/** One thing of a list, as text. */
export interface Item {
  readonly name: string;
  readonly about: string | undefined;
  /** Sentences, each on a line of its own; the part in front may be tinted. */
  readonly lines: readonly { readonly front?: string; readonly text: string }[];
}

export function renderList(items: readonly Item[], word: string, { definitions, at, colour }: ListRequest): string {
  const paint = explanationPaint(colour);
  const blocks = items.map(({ name, about, lines }) => {
    const head = about === undefined ? paint.strong(name) : `${paint.strong(name)}  ${paint.faint(printable(about))}`;
    const body = lines.flatMap(({ front = "", text }) => {
      const [first = "", ...rest] = wrap(printable(`${front} ${text}`.trim()), "");
      const tinted = front !== "" && first.startsWith(front) ? paint.open(front) + first.slice(front.length) : first;
      return [`  ${tinted}`, ...rest.map((line) => `    ${line}`)];
    });
    return [head, ...body].join("\n");
  });
  const foot = `${count(items.length, word)}, revision ${shortRevision(definitions.revision)}, ${showInstant(at, undefined)}`;
  return `${[...blocks, paint.faint(foot)].join("\n\n")}\n`;
}

/** `Used by zone-fares (rule “our own people first”) and the cohort staff.` */
export function usedBy(node: NodeKey, uses: ReadonlyMap<NodeKey, readonly Use[]>): string {
  const users = uses.get(node) ?? [];
  if (users.length === 0) return "Used by nothing.";
  return `Used by ${users.map(showUse).join("; ")}.`;
}

function showUse({ user, name, where, environment }: Use): string {
  const place = environment === undefined ? where : `${where} in ${environment}`;
  return user === "flag" ? `${name} (${place})` : `cohort ${name} (${place})`;
}

export function byName<T extends { readonly name: string }>(things: Iterable<T>): T[] {
  return [...things].sort((a, b) => (a.name < b.name ? -1 : 1));
}
