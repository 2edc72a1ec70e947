import { parse, stringify } from "yaml";

/** Ways in which people lay their YAML files out. */
export const layouts: readonly (readonly [string, (text: string) => string])[] = [
  ["as it is", (text) => text],
  ["with carriage returns", (text) => text.replaceAll("\n", "\r\n")],
  ["without a last line break", (text) => text.trimEnd()],
  ["with a comment behind every line", (text) => text.replace(/^(?!\s*#)(.*\S)$/gm, "$1 # so it is")],
  ["with a comment above every line", (text) => text.replace(/^( *)(?=\S)/gm, "$1# see below\n$1")],
  ["with blank lines", (text) => text.replace(/^(?= {2,6}\S)/gm, "\n")],
  ["all in flow style", (text) => stringify(parse(text), { collectionStyle: "flow", lineWidth: 0 })],
  ["indented by four", (text) => stringify(parse(text), { indent: 4, lineWidth: 0 })],
  ["lists not indented", (text) => stringify(parse(text), { indentSeq: false, lineWidth: 0 })],
];
