import Link from 'next/link';
import type { ReactNode } from 'react';

/** A number that leads to its messages, beside the work at hand; the number alone where no address can say which they are. */
export function MaybeLink({ path, children }: { path: string | null; children: ReactNode }) {
  if (path === null) return children;
  return (
    <Link href={path} target="_blank">
      {children}
    </Link>
  );
}
