/** argumentsOf splits a command line into its arguments: at blanks, but not within quotes. */
export function argumentsOf(line: string): string[] {
  return [...line.matchAll(/"([^"]*)"|'([^']*)'|(\S+)/g)].map((m) => m[1] ?? m[2] ?? m[3]!)
}

/** lineOf writes arguments so that argumentsOf reads them again. */
export const lineOf = (args: string[] | undefined): string => (args ?? []).map((a) => (/^[^\s"']+$/.test(a) ? a : a.includes('"') ? `'${a}'` : `"${a}"`)).join(' ')
