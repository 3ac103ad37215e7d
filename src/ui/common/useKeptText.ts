'use client';

import { useEffect, useState } from 'react';
import { ownJson } from '../../core/text/lookup';

/**
 * A text under work that survives a reload of the page: it is kept by the browser until it is what it began with, or is
 * let go. What was kept for another beginning is not brought back.
 */
export function useKeptText(key: string, beginning: string): [string, (text: string) => void, () => void] {
  const [text, setText] = useState(beginning);
  useEffect(() => {
    const kept = sessionStorage.getItem(key);
    if (kept === null) return;
    const [from, to] = ownJson<[string, string]>(kept);
    if (from === beginning) setText(to);
    else sessionStorage.removeItem(key);
  }, [key, beginning]);
  const change = (to: string) => {
    setText(to);
    try {
      if (to === beginning) sessionStorage.removeItem(key);
      else sessionStorage.setItem(key, JSON.stringify([beginning, to]));
    } catch {
      // A text too large for the browser to keep is kept by the page alone.
    }
  };
  const letGo = () => sessionStorage.removeItem(key);
  return [text, change, letGo];
}
