// Editions on shelves: what they say, who signed them, where they are.

export { callingOff, endless, within } from "./deadline.ts";
export { calledEdition, type Edition, type EditionFile, payloadOf, readPayload } from "./edition.ts";
export { EditionFault, IncompleteFault, reasonOf, ShelfFault, SilentFault } from "./faults.ts";
export { type Follower, isSilent, isUpToDate, type Noted, type Numbers } from "./follower.ts";
export { type FolderShelfOptions, folderPlace } from "./kinds/folder.ts";
export { type PostgresShelfOptions, postgresPlace } from "./kinds/postgres.ts";
export type { PostgresClient, PostgresPool } from "./kinds/postgres-pool.ts";
export { type RedisShelfOptions, redisPlace } from "./kinds/redis.ts";
export type { RedisClient, RedisSubscriber } from "./kinds/redis-client.ts";
export { type WebShelfOptions, webPlace } from "./kinds/web.ts";
export { claimedIn, defaultSet, furthestStep } from "./list-text.ts";
export type {
  Hearing,
  ListName,
  Looked,
  NewFile,
  NewList,
  Place,
  PresencePlace,
  PublishingPlace,
} from "./place.ts";
export {
  editionList,
  endOf,
  keysOf,
  type ListKind,
  type PublishKey,
  publicHalf,
  type ReadList,
  readEdition,
  readList,
  rolesOf,
  signList,
  stopsList,
} from "./signatures.ts";
export { readStopsPayload, type ShelfStops, stopsPayload } from "./stops.ts";
