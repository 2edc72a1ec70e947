import { createPrivateKey } from "node:crypto";
import type { PublishKey } from "../../../src/shelf/index.ts";

/** What stands before the 32 bytes of a private Ed25519 key in PKCS #8 (RFC 8410). */
const before = Buffer.from("302e020100300506032b657004220420", "hex");

/** Always the same, so that the same seed is the same run. */
function keyOf(kid: string, role: string): PublishKey {
  const der = Buffer.concat([before, Buffer.alloc(32, kid)]);
  const jwk = createPrivateKey({ key: der, format: "der", type: "pkcs8" }).export({ format: "jwk" });
  return { ...jwk, kid, alg: "EdDSA", "iudex-for": [role] } as unknown as PublishKey;
}

export const publisherKey = keyOf("publisher", "editions");
export const stopperKey = keyOf("stopper", "stops");

const publicOf = ({ d: _, ...shared }: PublishKey) => shared;

export const publicKeys = { keys: [publisherKey, stopperKey].map(publicOf) };
