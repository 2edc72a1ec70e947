import { stat } from "node:fs/promises";
import type { WeighedMeasure, Weighing } from "../weigh/index.ts";
import { DeskFault } from "./desk-fault.ts";
import type { DeskFolder } from "./desk-folder.ts";
import type { DeskWeighing } from "./options.ts";
import type { Visitor, WeighAnswer, WeighedWords } from "./protocol.ts";
import type { Fields } from "./requests.ts";

/** Answers that are kept while the files that they were made from stay as they are. */
const maxKept = 32;

/** Tells what came of flags. */
export class DeskScales {
  readonly #files: DeskWeighing | undefined;
  readonly #kept = new Map<string, Promise<WeighAnswer>>();

  constructor(files: DeskWeighing | undefined) {
    this.#files = files;
  }

  get canWeigh(): boolean {
    return this.#files !== undefined;
  }

  /** Answers `POST api/weigh`. One at a time for each person, since it reads whole files. */
  async answer(asked: Fields, visitor: Visitor, signal: AbortSignal, desk: DeskFolder): Promise<WeighAnswer> {
    const files = this.#files;
    if (!files) throw new DeskFault(404, "The desk knows of no files from which it could tell what came of a flag.");
    const { folder } = await desk.standing();
    const { definitions } = await desk.usable("files", visitor);
    const request = {
      flag: asked.text("flag"),
      rule: asked.optional("rule"),
      environment: asked.optional("environment"),
    };
    const stamps = await Promise.all([files.verdicts, files.outcomes].map((file) => stampOf(file)));
    const key = JSON.stringify([request, definitions.revision, stamps]);
    const weighed = this.#kept.get(key);
    if (weighed) return weighed;
    const weighing = desk.turns.ask(visitor.name).run(signal, async () => {
      // Its distributions are loaded when they are asked for: few who mount a desk weigh.
      const scales = await import("../weigh/index.ts");
      const earlier = await scales.versionsOf(folder, request.flag, signal);
      return answerOf(await scales.weigh(definitions, { ...files, ...request, earlier }), scales);
    });
    this.#kept.set(key, weighing);
    weighing.catch(() => this.#kept.delete(key));
    if (this.#kept.size > maxKept) this.#kept.delete([...this.#kept.keys()][0]!);
    return weighing;
  }
}

async function stampOf(file: string): Promise<unknown> {
  const found = await stat(file).catch(() => undefined);
  return found && [found.ino, found.size, found.mtimeMs];
}

/** As wide as a telephone, and drawn by the styles of the page. */
const drawing = { width: 360, isAlone: false };

type Scales = typeof import("../weigh/index.ts");

function answerOf(weighing: Weighing, scales: Scales): WeighAnswer {
  const { measures, guards } = weighing;
  const all = [
    ...measures.map((each) => wordsOf(each, false, scales)),
    ...guards.map((each) => wordsOf(each, true, scales)),
  ];
  const isDrawn = [...measures, ...guards].some(({ differences }) => differences.some(({ absolute }) => absolute));
  return {
    head: scales.headOf(weighing),
    measures: all,
    facts: scales.factsOf(weighing),
    ...(isDrawn ? { picture: scales.weighingPicture(weighing, drawing) } : {}),
  };
}

function wordsOf(measure: WeighedMeasure, isGuard: boolean, { digitsFor, fixed }: Scales): WeighedWords {
  const { name, kind, groups, differences } = measure;
  const units = kind === "rate" ? 100 : 1;
  const ends = groups.flatMap(({ low, high }) => [low, high]).filter(Number.isFinite);
  const digits = ends.length === 0 ? 0 : digitsFor(Math.min(...ends) * units, Math.max(...ends) * units);
  const shown = (figure: number) =>
    Number.isFinite(figure) ? `${fixed(figure * units, digits)}${units === 100 ? " %" : ""}` : "–";
  return {
    name,
    isGuard,
    says: differences.map(({ to, says }) => (differences.length > 1 ? `${to}: ${says}` : says)),
    groups: groups.map(({ name: group, people, figure }) => ({ name: group, people, figure: shown(figure) })),
  };
}
