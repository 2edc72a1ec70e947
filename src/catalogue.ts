/**
 * The flags that a program names, with types and fallbacks. It runs anywhere, so that a page and its service share one.
 *
 * @module iudex/catalogue
 */
export * from "./catalogue/index.ts";
