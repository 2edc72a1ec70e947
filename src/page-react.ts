/**
 * Hooks for the flags of a page: React, or Preact by its compatibility layer.
 *
 * @module iudex/page/react
 */
export {
  type FlagHooks,
  FlagsProvider,
  flagHooks,
  useFlag,
  useFlags,
} from "./hooks/index.ts";
