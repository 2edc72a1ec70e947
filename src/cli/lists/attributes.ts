import type { AttributeDefinition } from "../../model/index.ts";
import { Graph, type NodeKey } from "../../model/index.ts";
import { show } from "../../values/index.ts";
import { type Listing, type ListRequest, renderList, usedBy } from "./listing.ts";

/** What each attribute holds, and where it is used; those that nobody declares are told as well. */
export function listAttributes(request: ListRequest): Listing {
  const { definitions } = request;
  const uses = new Graph(definitions).uses();
  const used = [...uses.keys()]
    .filter((node) => node.startsWith("attribute:"))
    .map((node) => node.slice("attribute:".length));
  const names = [...new Set([...definitions.attributes.keys(), ...used])].sort();
  const attributes = names.map((name) => {
    const declared = definitions.attributes.get(name);
    const node: NodeKey = `attribute:${name}`;
    return {
      attribute: name,
      about: declared?.about,
      type: declared?.type,
      ignoreCase: declared?.ignoreCase ?? false,
      private: declared?.private ?? false,
      ...(declared?.missingAs === undefined ? {} : { missingAs: declared.missingAs }),
      usedBy: uses.get(node) ?? [],
    };
  });
  const items = attributes.map(({ attribute, about }) => ({
    name: attribute,
    about,
    lines: [
      { text: meaningOf(definitions.attributes.get(attribute)) },
      { text: usedBy(`attribute:${attribute}`, uses) },
    ],
  }));
  return { data: { attributes }, text: renderList(items, "attribute", request) };
}

function meaningOf(declared: AttributeDefinition | undefined): string {
  if (!declared) return "Not declared.";
  const { type, missingAs } = declared;
  const kind = Array.isArray(type)
    ? `One of ${type.join(", ")}`
    : String(type).charAt(0).toUpperCase() + String(type).slice(1);
  const folded = declared.ignoreCase ? "; upper and lower case alike" : "";
  const hidden = declared.private ? "; private, shown as •••" : "";
  return `${kind}${missingAs === undefined ? "" : `; ${show(missingAs)} where it is missing`}${folded}${hidden}.`;
}
