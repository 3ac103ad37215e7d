'use client';

/** Shown when even the page's frame could not be drawn; needs nothing of it. */
export default function GlobalError({ reset }: { error: Error; reset: () => void }) {
  return (
    <html lang="en">
      <body>
        <h1>The page could not be drawn</h1>
        <p>The data is safe: what was saved before stays as it was.</p>
        <button type="button" onClick={reset}>
          Try again
        </button>
      </body>
    </html>
  );
}
