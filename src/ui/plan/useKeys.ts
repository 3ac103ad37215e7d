import { type KeyboardEvent, type RefObject, useEffect, useRef } from 'react';

/** What the keys do while a question is shown: digits choose, letters are commands. */
export interface Keys {
  readonly choose: (index: number) => void;
  readonly commands: Readonly<Record<string, () => unknown>>;
}

export interface Keyed {
  readonly region: RefObject<HTMLElement | null>;
  readonly onKey: (event: KeyboardEvent) => void;
}

/** Focuses a region when it appears, and handles its keys, but not those of fields within it. */
export function useKeys({ choose, commands }: Keys): Keyed {
  const region = useRef<HTMLElement>(null);
  useEffect(() => region.current?.focus({ preventScroll: true }), []);
  const onKey = (event: KeyboardEvent) => {
    if (event.target !== region.current && !(event.target instanceof HTMLButtonElement)) return;
    if (event.ctrlKey || event.metaKey || event.altKey) return;
    const command = commands[event.key];
    if (/^[1-9]$/.test(event.key)) choose(Number(event.key) - 1);
    else if (command) command();
    else return;
    event.preventDefault();
  };
  return { region, onKey };
}
