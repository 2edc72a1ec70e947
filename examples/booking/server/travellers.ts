/** What the line knows of somebody; the shape of the context that flags are judged by. */
export interface Traveller {
  readonly name: string;
  readonly account: { readonly id: string; readonly plan: "foot" | "vehicle" | "freight" };
  readonly email: string;
  readonly trips: number;
  readonly contractor?: boolean;
}

/** Made-up people, so that there is somebody to sign in as. */
export const travellers: readonly Traveller[] = [
  { name: "Oda", account: { id: "A-17", plan: "vehicle" }, email: "oda@post.example", trips: 104 },
  { name: "Jonas", account: { id: "A-2040", plan: "freight" }, email: "jonas@haulage.example", trips: 31 },
  { name: "Kari", account: { id: "C-204", plan: "foot" }, email: "kari@ternhaven.example", trips: 12 },
  { name: "Mika", account: { id: "A-1001", plan: "vehicle" }, email: "mika@post.example", trips: 3 },
  { name: "Runa", account: { id: "A-4", plan: "foot" }, email: "runa@post.example", trips: 7 },
];

/** Whoever works for the line. */
export function isCrew({ email, contractor = false }: Traveller): boolean {
  return email.endsWith("@ternhaven.example") && !contractor;
}

export function travellerBy(id: string | undefined): Traveller | undefined {
  return travellers.find(({ account }) => account.id === id?.trim().toUpperCase());
}
