import { createContext, createElement, type ReactNode, useContext, useEffect, useSyncExternalStore } from "react";
import type { NameOf, ValueOf } from "../catalogue/index.ts";
import type { PageFlags, PageSnapshot } from "../page/index.ts";

/** What hands flags to the components below it. */
export interface FlagsProviderProps<C = undefined> {
  readonly flags: PageFlags<C>;
  readonly children?: ReactNode;
}

/** The hooks with the types of a catalogue. */
export interface FlagHooks<C> {
  /** Hands flags to the components below it. */
  FlagsProvider(props: FlagsProviderProps<C>): ReactNode;
  /** The value of a flag. */
  useFlag<Name extends NameOf<C>>(name: Name): ValueOf<C, Name>;
  /** The values of all flags. */
  useFlags(): PageSnapshot<C>["values"];
}

const Flags = createContext<PageFlags | undefined>(undefined);

/**
 * Hands flags to the components below it.
 *
 * @example <FlagsProvider flags={followPage({ catalogue, first: "#flags", changes: "/api/flags/changes" })}>…
 */
export function FlagsProvider<C>({ flags, children }: FlagsProviderProps<C>): ReactNode {
  return createElement(Flags.Provider, { value: flags as unknown as PageFlags }, children);
}

/**
 * The value of a flag; the component renders again only when it changes. The flag counts as seen once the component is on
 * the page.
 *
 * @example const map = useFlag("seat-map");
 */
export function useFlag(name: string): ValueOf<undefined, string> {
  const flags = useProvided();
  useEffect(() => {
    const see = () => void flags.value(name);
    see();
    return flags.subscribe(see);
  }, [flags, name]);
  return useSyncExternalStore(
    flags.subscribe,
    () => flags.snapshot().values[name],
    () => flags.firstSnapshot().values[name],
  );
}

/** The values of all flags; none of them counts as seen. The component renders again whenever one changes. */
export function useFlags(): PageSnapshot["values"] {
  const flags = useProvided();
  return useSyncExternalStore(
    flags.subscribe,
    () => flags.snapshot().values,
    () => flags.firstSnapshot().values,
  );
}

/**
 * The provider and the hooks with the types of a catalogue.
 *
 * @example export const { FlagsProvider, useFlag } = flagHooks<typeof catalogue>();
 */
export function flagHooks<C>(): FlagHooks<C> {
  return { FlagsProvider, useFlag, useFlags } as unknown as FlagHooks<C>;
}

function useProvided(): PageFlags {
  const flags = useContext(Flags);
  if (!flags) throw Error("useFlag and useFlags want a FlagsProvider above them");
  return flags;
}
