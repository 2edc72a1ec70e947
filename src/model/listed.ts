import { sha256 } from "@noble/hashes/sha2.js";
import { bytesToHex, utf8ToBytes } from "@noble/hashes/utils.js";
import type { ListCohort } from "./types.ts";

/** How an id stands in a list of salted digests: SHA-256 (FIPS 180-4) of the UTF-8 bytes of `salt:id`, as 64 hex digits. */
export function saltedDigest(salt: string, id: string): string {
  return bytesToHex(sha256(utf8ToBytes(`${salt}:${id}`)));
}

/** The form of such a digest. */
export const digestForm = /^[0-9a-f]{64}$/;

/** How an id stands in the list of a cohort. */
export function listedAs({ hashed }: Pick<ListCohort, "hashed">, id: string): string {
  return hashed === undefined ? id : saltedDigest(hashed, id);
}

/** Whether a cohort's list holds an id. */
export function isListed(cohort: Pick<ListCohort, "ids" | "hashed">, id: string): boolean {
  return cohort.ids.has(listedAs(cohort, id));
}
