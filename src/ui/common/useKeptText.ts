'use client';

import { useEffect, useState } from 'react';
import { ownJson } from '../../core/text/lookup';

/**
 * An unfinished text that survives a reload: the browser stores it until it equals its beginning or is discarded. A
 * text that was stored for another beginning is not restored.
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
