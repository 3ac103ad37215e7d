'use client';

import { useEffect, useState } from 'react';

/** Whether a text has not changed for so many milliseconds; a first one has to rest too. */
export function useRested(text: string, milliseconds: number): boolean {
  const [rested, setRested] = useState<string | null>(null);
  useEffect(() => {
    const clock = setTimeout(() => setRested(text), milliseconds);
    return () => clearTimeout(clock);
  }, [text, milliseconds]);
  return rested === text;
}
