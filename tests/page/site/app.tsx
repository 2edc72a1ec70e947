/** @jsxImportSource react */
import type { PageFlags } from "iudex/page";
import { flagHooks } from "iudex/page/react";
import { type ReactNode, useState } from "react";
import type { catalogue } from "./catalogue.ts";

const { FlagsProvider, useFlag, useFlags } = flagHooks<typeof catalogue>();

/** How often each part of the page was rendered. */
export const renders: Record<string, number> = {};

function Part({ name, children }: { readonly name: string; readonly children: ReactNode }) {
  renders[name] = (renders[name] ?? 0) + 1;
  return <p id={name}>{children}</p>;
}

function Storm() {
  return <Part name="storm">{useFlag("storm-mode") ? "The boats stay in harbour." : "The boats sail."}</Part>;
}

function Seats() {
  const map = useFlag("seat-map");
  return <Part name="seats">Seats: {map}</Part>;
}

function Lanes() {
  const { lanes } = useFlag("check-in");
  return <Part name="lanes">Lanes: {lanes}</Part>;
}

function All() {
  return <Part name="all">{JSON.stringify(useFlags())}</Part>;
}

function Later() {
  const [isOpen, open] = useState(false);
  return isOpen ? (
    <Minutes />
  ) : (
    <button type="button" onClick={() => open(true)}>
      How long is a seat held?
    </button>
  );
}

function Minutes() {
  return <Part name="minutes">Held for {useFlag("hold-minutes")} minutes</Part>;
}

export function App({ flags }: { readonly flags: PageFlags<typeof catalogue> }) {
  return (
    <FlagsProvider flags={flags}>
      <h1>Ternhaven to Grebe Holm</h1>
      <Storm />
      <Seats />
      <Lanes />
      <All />
      <Later />
    </FlagsProvider>
  );
}
