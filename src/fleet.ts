/**
 * Definitions for many machines: editions are published to a shelf, and followed from it.
 *
 * @module iudex/fleet
 */
export {
  type Edition,
  EditionFault,
  type EditionFile,
  type EditionsOptions,
  type FolderRequest,
  type FolderShelfOptions,
  type Follower,
  folderShelf,
  type GaugeMeter,
  type GaugeResult,
  historyOfShelf,
  type ObservableGauge,
  type PostgresClient,
  type PostgresPool,
  type PostgresShelfOptions,
  type Published,
  type PublishKey,
  type PublishPlan,
  type PublishRequest,
  postgresShelf,
  publishAgain,
  publishFolder,
  type RedisClient,
  type RedisShelfOptions,
  type RedisSubscriber,
  redisShelf,
  reinstateAtShelf,
  Shelf,
  type ShelfEntry,
  ShelfFault,
  type StopRequest,
  shelfGauges,
  suspendAtShelf,
  type WebShelfOptions,
  webShelf,
} from "./fleet/index.ts";
export type { EditionKeys, RefusedEdition, ShelfOptions, ShelfOrigin } from "./runtime/index.ts";
