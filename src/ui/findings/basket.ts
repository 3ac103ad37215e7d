'use client';

import { useSyncExternalStore } from 'react';
import type { Edit } from '../../core/rules/edit';
import { ownJson } from '../../core/text/own-json';

/** A repair that is to be made together with others. */
export interface Gathered {
  /** The key of the finding that it answers, and what the finding says. */
  readonly finding: string;
  readonly claim: string;
  readonly title: string;
  readonly edits: readonly Edit[];
}

const NONE: readonly Gathered[] = [];
const listeners = new Set<() => void>();
const known = new Map<string, { readonly text: string; readonly list: readonly Gathered[] }>();
const keyOf = (auditId: string): string => `together ${auditId}`;

/** The repairs gathered in this window, kept over a reload; and how to change them. */
export function useBasket(auditId: string): [readonly Gathered[], (list: readonly Gathered[]) => void] {
  const list = useSyncExternalStore(
    (listener) => {
      listeners.add(listener);
      return () => listeners.delete(listener);
    },
    () => read(auditId),
    () => NONE,
  );
  return [list, (next) => write(auditId, next)];
}

function read(auditId: string): readonly Gathered[] {
  const text = sessionStorage.getItem(keyOf(auditId)) ?? '[]';
  const held = known.get(auditId);
  if (held?.text === text) return held.list;
  const list = ownJson<readonly Gathered[]>(text);
  known.set(auditId, { text, list });
  return list;
}

function write(auditId: string, list: readonly Gathered[]): void {
  sessionStorage.setItem(keyOf(auditId), JSON.stringify(list));
  for (const listener of listeners) listener();
}
