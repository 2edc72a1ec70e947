// What a folder held, and when: a service may give no file that never was.

/** A whole state of a file. */
export interface Whole {
  readonly token: number;
  readonly text: string;
  /** Cannot be used. */
  readonly isBroken: boolean;
}

/** A file as people have saved it: every state that was whole, in order. */
export class SavedFile {
  readonly name: string;
  readonly #text: (token: number) => string;
  readonly states: Whole[] = [];

  constructor(name: string, text: (token: number) => string) {
    this.name = name;
    this.#text = text;
  }

  next(token: number, isBroken = false): Whole {
    const text = this.#text(token);
    return { token, isBroken, text: isBroken ? `${text.slice(0, -2)}\n{ : [` : text };
  }

  get newest(): Whole {
    return this.states.at(-1)!;
  }
}

/** Of a file that is cut anywhere the beginning can be used, too: what it holds tells whether it is whole. */
export const flagsInOneFile = 20;

/** The one that people save by hand. */
export const left = new SavedFile("left.yaml", (token) => {
  const flags = Array.from({ length: flagsInOneFile }, (_, i) => `  left-${i}: { safe: 0, otherwise: ${token} }\n`);
  return `iudex: 1\nattributes:\n  id: text\nflags:\n${flags.join("")}`;
});

export const right = new SavedFile("right.json", (token) =>
  JSON.stringify({ iudex: 1, flags: { right: { safe: 0, otherwise: token } } }),
);

export const crew = new SavedFile("lists/crew.csv", (token) => {
  const ids = Array.from({ length: 200 }, (_, i) => `C-${i}`);
  return `account.id\nbegin-${token}\n${ids.join("\n")}\nend-${token}\n`;
});

export const overrides = new SavedFile(
  "overrides.local.yaml",
  (token) => `iudex: 1\noverrides:\n  fares: ${token}\n  timetable: ${token}\n`,
);

/** Each token stops the flags whose bits it has. */
export const stops = new SavedFile("suspended.yaml", (token) => {
  const flags = switches.filter((_, i) => token & (1 << i)).map((name) => `  ${name}: {}\n`);
  return `iudex: 1\nsuspended:${flags.length === 0 ? " {}\n" : `\n${flags.join("")}`}`;
});

export const switches = ["intake", "kiosk", "refunds", "seat-map"];

/** What does not change. */
export const fixed = `iudex: 1
environments: { local: { local-overrides: true } }
cohorts:
  crew: { of: id, file: lists/crew.csv }
flags:
${switches.map((name) => `  ${name}: { safe: false, otherwise: true }\n`).join("")}  fares: { safe: 0, otherwise: 0 }
  timetable: { safe: 0, otherwise: 0 }
  for-crew:
    safe: false
    rules:
      - { name: crew, when: cohort:crew, give: true }
    otherwise: false
`;

export const saved = [left, right, crew, stops, overrides];
