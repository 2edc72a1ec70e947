// Editions on shelves: what they say, who signed them, where they are.

export { callingOff, endless, within } from "./deadline.ts";
export {
  calledEdition,
  claimedNumber,
  defaultSet,
  type Edition,
  type EditionFile,
  payloadOf,
  readPayload,
} from "./edition.ts";
export { EditionFault, IncompleteFault, reasonOf, ShelfFault } from "./faults.ts";
export { type FolderShelfOptions, folderPlace } from "./kinds/folder.ts";
export { type PostgresClient, type PostgresPool, type PostgresShelfOptions, postgresPlace } from "./kinds/postgres.ts";
export { type RedisClient, type RedisShelfOptions, type RedisSubscriber, redisPlace } from "./kinds/redis.ts";
export { type WebShelfOptions, webPlace } from "./kinds/web.ts";
export type { Hearing, Look, Looked, NewFile, Place, PublishingPlace, RollCallPlace } from "./place.ts";
export type { Follower } from "./roll-call.ts";
export { type PublishKey, publicHalf, readEdition, signEdition } from "./signatures.ts";
