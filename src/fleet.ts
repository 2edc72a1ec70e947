/**
 * Definitions for many machines: editions are published to a shelf, and followed from it.
 *
 * @module iudex/fleet
 */

export {
  type FolderRequest,
  historyOfShelf,
  type Published,
  type PublishPlan,
  type PublishRequest,
  publishAgain,
  publishFolder,
  reinstateAtShelf,
  type ShelfEntry,
  type StopRequest,
  type StopsPlan,
  type StopsRequest,
  signStopsAgain,
  suspendAtShelf,
} from "./edit/index.ts";
export type { KeySet, RefusedEdition, ShelfOptions, ShelfOrigin } from "./flags/index.ts";
export {
  type EditionsOptions,
  folderShelf,
  postgresShelf,
  redisShelf,
  Shelf,
  shelfGauges,
  webShelf,
} from "./follow/index.ts";
export {
  type Edition,
  EditionFault,
  type FolderShelfOptions,
  type Follower,
  type PostgresPool,
  type PostgresShelfOptions,
  type PublishKey,
  type RedisClient,
  type RedisShelfOptions,
  ShelfFault,
  type ShelfStops,
  type WebShelfOptions,
} from "./shelf/index.ts";
