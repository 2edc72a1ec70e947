import {
  observeWindowOffset,
  observeWindowRect,
  type VirtualItem,
  Virtualizer,
  windowScroll,
} from "@tanstack/virtual-core";
import { useEffect, useLayoutEffect, useReducer, useRef, useState } from "preact/hooks";

/** The rows that are in view, and how to bring others there. */
export interface WindowRows {
  readonly items: readonly VirtualItem[];
  readonly height: number;
  /** Measures a row that has been drawn. */
  readonly measure: (row: Element | null) => void;
  scrollTo(index: number): void;
}

/** Rows of a page that scrolls as a whole: only those in view are drawn, each as high as it is. */
export function useWindowRows(count: number, above: number, keyOf: (index: number) => string): WindowRows {
  const [, redraw] = useReducer((n: number) => n + 1, 0);
  const options = {
    count,
    estimateSize: () => 92,
    overscan: 3,
    scrollMargin: above,
    getItemKey: keyOf,
    getScrollElement: () => window,
    observeElementRect: observeWindowRect,
    observeElementOffset: observeWindowOffset,
    scrollToFn: windowScroll,
    initialOffset: () => window.scrollY,
    onChange: () => redraw(0),
  };
  const [rows] = useState(() => new Virtualizer<Window, Element>(options));
  rows.setOptions(options);
  useEffect(() => rows._didMount(), []);
  useLayoutEffect(() => rows._willUpdate());
  const measure = useRef((row: Element | null) => rows.measureElement(row)).current;
  return {
    items: rows.getVirtualItems(),
    height: rows.getTotalSize(),
    measure,
    scrollTo: (index) => rows.scrollToIndex(index),
  };
}
