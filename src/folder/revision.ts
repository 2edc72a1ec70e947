import { createHash } from "node:crypto";
import type { Definitions } from "../model/index.ts";
import { canonicalPieces, DefinitionSet, revisionDigits } from "../model/index.ts";
import type { ReadingMemory } from "../reading/index.ts";
import { inSlices } from "./slices.ts";

/** Works the revision of a set out beforehand, with the platform's hash and without keeping the event loop waiting. */
export async function settleRevision(definitions: Definitions, { canonical }: ReadingMemory): Promise<void> {
  if (!(definitions instanceof DefinitionSet) || definitions.isSettled) return;
  definitions.settleRevision(await inSlices(hashed(canonicalPieces(definitions, canonical))));
}

function* hashed(pieces: Iterable<string>): Generator<undefined, string, undefined> {
  const hash = createHash("sha256");
  for (const piece of pieces) {
    hash.update(piece);
    yield;
  }
  return hash.digest("hex").slice(0, revisionDigits);
}
