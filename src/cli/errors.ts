/** Something the caller of the command line can mend: one clear line. */
export class CliError extends Error {}
