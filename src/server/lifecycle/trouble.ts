import { escapeUTF8 } from 'entities';

/** Why the server cannot use its database, in words; plain data, so that showing it needs no database. */
export interface Standing {
  readonly what: string;
  readonly remedy: string;
}

declare global {
  /** On `globalThis`, where a reloaded module finds it again. */
  var ysomerisStanding: Standing | undefined;
}

/** Null if all is well. */
export const maybeStanding = (): Standing | null => globalThis.ysomerisStanding ?? null;

export function setStanding(standing: Standing | null): void {
  if (standing) globalThis.ysomerisStanding = standing;
  else globalThis.ysomerisStanding = undefined;
}

/**
 * The page shown instead of every page while the database is unusable. It is self-contained, since pages of the
 * application would need the database; `nonce` allows its style.
 */
export function standingPage({ what, remedy }: Standing, nonce: string): string {
  return `<!DOCTYPE html>
<html lang="en">
<head>
<meta charset="utf-8">
<meta name="viewport" content="width=device-width, initial-scale=1">
<meta http-equiv="refresh" content="5">
<title>Ysomeris cannot work with its database</title>
<style nonce="${escapeUTF8(nonce)}">
:root { color-scheme: light dark; }
body { margin: 0; padding: 12vh 24px; background: #f8f4ea; color: #26241f; font: 16px/1.5 'Source Sans 3', 'Noto Sans', sans-serif; }
main { max-width: 620px; margin: 0 auto; padding-left: 18px; border-left: 3px double #86391e; overflow-wrap: anywhere; }
h1 { margin: 0 0 12px; font-size: 22px; }
p { margin: 8px 0; }
.soft { color: #5d574a; }
@media (prefers-color-scheme: dark) {
  body { background: #1c1f1e; color: #e9e4d6; }
  main { border-color: #e0a07c; }
  .soft { color: #b0aa98; }
}
</style>
</head>
<body>
<main>
<h1>Ysomeris cannot work with its database</h1>
<p>${escapeUTF8(what)}</p>
<p>${escapeUTF8(remedy)}</p>
<p class="soft">This page checks again every five seconds. You need not restart the server.</p>
</main>
</body>
</html>
`;
}
