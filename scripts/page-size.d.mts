/** The files that are loaded for some lines of code, the first of them first: what each imports, and its bytes. */
export function filesLoadedFor(
  code: string,
  external?: readonly string[],
): Promise<readonly { readonly imports: readonly string[]; readonly bytes: number }[]>;
