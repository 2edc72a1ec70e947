/** Texts that want to hurt whoever reads them, each of up to 5 MB. */
export function hostileText(kind) {
  const size = 5_000_000;
  const head = "iudex: 1\nflags: ";
  const often = (text) => text.repeat(Math.floor((size - head.length) / text.length));
  switch (kind) {
    case "brackets":
      return head + often("[");
    case "braces":
      return head + often("{a: ");
    case "dashes":
      return `${head}\n  ${often("- ").slice(0, -10)}`;
    case "question marks":
      return `${head}\n  ${often("? ").slice(0, -10)}`;
    case "keys, each further in":
      return `iudex: 1\n${Array.from({ length: 3_000 }, (_, i) => `${" ".repeat(i)}a:\n`).join("")}`;
    case "numbers":
      return `${head}[${often("1,")}]`;
    case "anchors":
      return `${head}[${often("&a ")}`;
    case "JSON brackets":
      return "[".repeat(size);
    case "JSON numbers":
      return `[${"1,".repeat(size / 2 - 2)}1]`;
    default:
      throw new Error(`There is no hostile text of ${kind}.`);
  }
}
