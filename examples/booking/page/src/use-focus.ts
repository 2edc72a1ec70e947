import { useEffect, useRef } from "preact/hooks";

/** Takes the focus when what it is put on appears: whoever works by keyboard or ear goes on where the page does. */
export function useFocus<T extends HTMLElement>() {
  const element = useRef<T>(null);
  useEffect(() => element.current?.focus(), []);
  return element;
}
