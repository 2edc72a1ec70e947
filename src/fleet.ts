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
  type StopsPut,
  type StopsRequest,
  signStopsAgain,
  suspendAtShelf,
} from "./edit/index.ts";
export type { KeySet, RefusedEdition, ShelfOptions, ShelfOrigin } from "./flags/index.ts";
export {
  type EditionsOptions,
  folderShelf,
  type GaugeMeter,
  type GaugeResult,
  type ObservableGauge,
  postgresShelf,
  redisShelf,
  Shelf,
  shelfGauges,
  webShelf,
} from "./follow/index.ts";
export {
  type Edition,
  EditionFault,
  type EditionFile,
  type FolderShelfOptions,
  type Follower,
  type Noted,
  type PostgresClient,
  type PostgresPool,
  type PostgresShelfOptions,
  type PublishKey,
  type RedisClient,
  type RedisShelfOptions,
  type RedisSubscriber,
  ShelfFault,
  type ShelfStops,
  type WebShelfOptions,
} from "./shelf/index.ts";
