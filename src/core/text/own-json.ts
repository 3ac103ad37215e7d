/**
 * A value read back from JSON that this program wrote itself, into its own database, for its own pages or into the window that reads
 * it: its form is known, and is not checked again. What comes from anyone else is read by a shape.
 */
export const ownJson = <T>(text: string): T => JSON.parse(text);
