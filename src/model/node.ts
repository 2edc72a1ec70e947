/** What can refer, or be referred to. */
export type NodeKind = "flag" | "cohort" | "window" | "attribute";

/** A flag, cohort, window or attribute by kind and name, such as `cohort:crew`. */
export type NodeKey = `${NodeKind}:${string}`;

export function nodeKey(kind: NodeKind, name: string): NodeKey {
  return `${kind}:${name}`;
}

export function partsOfKey(key: NodeKey): { readonly kind: NodeKind; readonly name: string } {
  const colon = key.indexOf(":");
  return { kind: key.slice(0, colon) as NodeKind, name: key.slice(colon + 1) };
}
