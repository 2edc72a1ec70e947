// Zones, instants, hours and windows.
export { parseHours } from "./hours.ts";
export {
  endWords,
  isDateText,
  isShowable,
  isZone,
  nearestZone,
  readInstant,
  showInstant,
  writtenDate,
} from "./instant.ts";
export { canEverBeOpen, TimeWindow } from "./window.ts";
