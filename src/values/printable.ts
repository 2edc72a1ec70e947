/**
 * Text from files and contexts with everything that could steer a terminal taken out: control characters, line and
 * paragraph separators, and marks that change the direction of writing.
 */
export function printable(text: string): string {
  return text.replace(/[\u0000-\u001f\u007f-\u009f\u2028\u2029\u202a-\u202e\u2066-\u2069]/g, "\ufffd");
}

/** Text of several lines, each of them printable. */
export function printableLines(text: string): string {
  return text.split("\n").map(printable).join("\n");
}
