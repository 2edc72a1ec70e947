// The real one, with chance by the seed.
import { Buffer } from "node:buffer";
import { world } from "./clock.ts";
import { uuid } from "./globals.ts";

export { createHash, createHmac, createPublicKey, hash, KeyObject, timingSafeEqual, webcrypto } from "node:crypto";

export const randomUUID = uuid;

export const randomBytes = (length: number) => Buffer.from(Array.from({ length }, () => world.below(256)));
