'use client';

/** Shown when even the root layout fails; it must not depend on the layout. */
export default function GlobalError({ reset }: { error: Error; reset: () => void }) {
  return (
    <html lang="en">
      <body>
        <h1>This page could not be shown</h1>
        <p>Your saved data is safe.</p>
        <button type="button" onClick={reset}>
          Try again
        </button>
      </body>
    </html>
  );
}
