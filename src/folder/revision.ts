import { createHash } from "node:crypto";
import type { Definitions } from "../core.ts";
import { DefinitionSet } from "../model/definition-set.ts";
import { canonicalPieces } from "../model/revision.ts";
import { inSlices } from "./slices.ts";

/** Works the revision of a set out beforehand, with the platform's hash and without keeping the event loop waiting. */
export async function settleRevision(definitions: Definitions): Promise<void> {
  if (!(definitions instanceof DefinitionSet)) return;
  definitions.settleRevision(await inSlices(hashed(definitions)));
}

function* hashed(definitions: Definitions): Generator<undefined, string, undefined> {
  const hash = createHash("sha256");
  for (const piece of canonicalPieces(definitions)) {
    hash.update(piece);
    yield;
  }
  return hash.digest("hex").slice(0, 12);
}
