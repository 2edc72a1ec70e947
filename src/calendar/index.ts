// Zones, instants, hours and windows.
export { parseHours } from "./hours.ts";
export {
  isDateText,
  isShowable,
  isZone,
  nearestZone,
  readInstant,
  showInstant,
  shownEnd,
  writtenDate,
  writtenEnd,
} from "./instant.ts";
export { canEverBeOpen, TimeWindow } from "./window.ts";
