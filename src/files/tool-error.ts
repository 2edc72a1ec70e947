/** What is wrong with what a tool was asked to do: not with the definitions, which give problems. */
export class ToolError extends Error {
  /** What to do about it. */
  readonly help: string | undefined;

  constructor(message: string, help?: string) {
    super(message);
    this.name = "ToolError";
    this.help = help;
  }
}
