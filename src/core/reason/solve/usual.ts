/** When example messages arrive if nothing else is asked for, in milliseconds since 1970. */
export const USUAL = Date.UTC(2026, 0, 1, 10);
