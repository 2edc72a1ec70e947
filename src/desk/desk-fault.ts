/** Why a desk does not do what it was asked for, in words for the person at the page. */
export class DeskFault extends Error {
  readonly status: 400 | 403 | 404 | 409 | 429 | 503;
  readonly help: string | undefined;

  constructor(status: DeskFault["status"], message: string, help?: string) {
    super(message);
    this.status = status;
    this.help = help;
  }
}
