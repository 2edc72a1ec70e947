// Hooks of React over the flags of a page.
export { type FlagHooks, FlagsProvider, type FlagsProviderProps, flagHooks, useFlag, useFlags } from "./hooks.ts";
