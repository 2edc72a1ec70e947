// Definitions for many machines: editions on shelves, published and followed.
export type { Edition, EditionFile } from "./edition.ts";
export { EditionFault, reasonOf, ShelfFault } from "./faults.ts";
export { type GaugeMeter, type GaugeResult, type ObservableGauge, shelfGauges } from "./gauges.ts";
export { loadEdition } from "./load-edition.ts";
export type { FolderRequest, Published, PublishPlan, PublishRequest, StopRequest } from "./publish/publish.ts";
export { publishAgain, publishFolder, reinstateAtShelf, suspendAtShelf } from "./publish/when-asked.ts";
export type { Follower } from "./roll-call.ts";
export { historyOfShelf, type ShelfEntry } from "./shelf-history.ts";
export { type EditionsOptions, folderShelf, postgresShelf, redisShelf, Shelf, webShelf } from "./shelf-of.ts";
export type { FolderShelfOptions } from "./shelves/folder.ts";
export type { PostgresClient, PostgresPool, PostgresShelfOptions } from "./shelves/postgres.ts";
export type { RedisClient, RedisShelfOptions, RedisSubscriber } from "./shelves/redis.ts";
export type { WebShelfOptions } from "./shelves/web.ts";
export type { PublishKey } from "./signatures.ts";
