import Link from 'next/link';
import type { ReactNode } from 'react';

/** A number that links to its messages in another tab; plain if no address can express them. */
export function MaybeLink({ path, children }: { path: string | null; children: ReactNode }) {
  if (path === null) return children;
  return (
    <Link href={path} target="_blank">
      {children}
    </Link>
  );
}
