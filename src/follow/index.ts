// What keeps flags up to date: a folder that is watched, a shelf that is asked.

export { CurrentStops } from "./editions/current-stops.ts";
export { EditionReader, type ReadEdition } from "./editions/edition-reader.ts";
export { FileStore, type Store, verified } from "./editions/file-store.ts";
export { type GaugeMeter, type GaugeResult, type ObservableGauge, shelfGauges } from "./editions/gauges.ts";
export { type FoundList, unseen } from "./editions/newest-list.ts";
export { ShelfLists } from "./editions/shelf-lists.ts";
export {
  type EditionsOptions,
  folderShelf,
  placeOf,
  postgresShelf,
  redisShelf,
  Shelf,
  webShelf,
} from "./editions/shelf-of.ts";
export { FolderFollower } from "./folder-follower.ts";
export { followFlags } from "./follow-flags.ts";
export { errorsIn } from "./put-into-force.ts";
