import type { RefObject } from "preact";
import { useLayoutEffect, useRef } from "preact/hooks";

interface Focused<Opener extends HTMLElement, Opened extends HTMLElement> {
  /** What opens it. */
  readonly opener: RefObject<Opener>;
  /** What stands open. */
  readonly opened: RefObject<Opened>;
}

/**
 * Takes the focus into what opens before another key can be pressed: what is typed next is meant for it. Once it is shut,
 * the focus goes back to what opened it, unless it is elsewhere by then.
 */
export function useFocus<Opener extends HTMLElement, Opened extends HTMLElement>(
  isOpen: boolean,
): Focused<Opener, Opened> {
  const opener = useRef<Opener>(null);
  const opened = useRef<Opened>(null);
  const wasOpen = useRef(false);
  useLayoutEffect(() => {
    if (isOpen) focusFirst(opened.current);
    else if (wasOpen.current && document.activeElement === document.body) opener.current?.focus();
    wasOpen.current = isOpen;
  }, [isOpen]);
  return { opener, opened };
}

/** The focus goes to the first of these things that can be used; to the whole where there is none. */
export function focusFirst(element: HTMLElement | null): void {
  const first = element?.querySelector<HTMLElement>("input:not([type=hidden]), select, textarea, button, a");
  (first ?? element)?.focus();
}
