import type { ComponentChildren } from "preact";
import { Suspense } from "preact/compat";
import { canChangeHere } from "../definitions/draft.ts";
import { hand, idOf } from "./hand.ts";

interface WordProps {
  /** Where it stands: no two words of a page have the same. */
  readonly place: string;
  /** What a screen reader says behind its text: “share, rule 3”. */
  readonly about: string;
  readonly children: string;
  /** An empty slot is offered in the rule in hand only. */
  readonly isEmpty?: boolean;
  readonly isBold?: boolean;
  /** What opens under it, the smallest thing that changes it. */
  leaf(): ComponentChildren;
}

/** A word of a sentence that can be changed; its leaf opens under the sentence, and nothing moves. */
export function Word({ place, about, children, isEmpty = false, isBold = false, leaf }: WordProps) {
  if (!canChangeHere()) {
    if (isEmpty) return null;
    return isBold ? <b>{children}</b> : <span>{children}</span>;
  }
  const isOpen = hand.value === place;
  return (
    <>
      <button
        type="button"
        class={`changeable ${isEmpty ? "empty" : ""} ${isBold ? "bold" : ""}`}
        id={idOf(place)}
        data-slot={place.split("/").at(-1)}
        aria-haspopup="dialog"
        aria-expanded={isOpen}
        aria-label={`${children}, ${about}`}
        onClick={() => {
          hand.value = isOpen ? undefined : place;
        }}
      >
        {children}
      </button>
      {isOpen && <Suspense fallback={null}>{leaf()}</Suspense>}
    </>
  );
}
