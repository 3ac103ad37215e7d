import type { Action, Ending } from '../rule';
import { type FoundRule, NO_TESTS } from './found-rule';
import { Line, phrase } from './tokens';
import { WrittenReader } from './written';
import { WrittenActions } from './written-actions';

const W = {
  otherwise: phrase('otherwise ,'),
  when: phrase('when'),
  every: phrase('for every message'),
  unless: phrase(', unless'),
  colon: phrase(':'),
  thenStop: phrase(', then stop'),
  stop: phrase('stop'),
  continues: phrase('; later rules still run'),
  end: phrase('.'),
};

/** A line in the words that sentences of rules are written in, whole; null for any other. */
export function maybeWritten(text: string): FoundRule | null {
  const line = new Line(text);
  const reader = new WrittenReader(line, () => true);
  const otherwise = line.after(0, W.otherwise);
  const start = otherwise ?? 0;
  const every = line.after(start, W.every);
  const when = line.after(start, W.when);
  const tests = every !== null ? { said: NO_TESTS, next: every } : when === null ? null : reader.condition(when);
  if (!tests) return null;
  const unless = line.after(tests.next, W.unless);
  const exceptions = unless === null ? { said: NO_TESTS, next: tests.next } : reader.condition(unless);
  const actions = exceptions && line.after(exceptions.next, W.colon);
  if (!exceptions || actions === null) return null;
  const done = ending(line, actions);
  if (!done) return null;
  const { said } = exceptions;
  return {
    rule: {
      tests: tests.said,
      unless: unless === null ? [] : said.kind === 'any' ? said.children : [said],
      actions: done.actions,
      ending: done.ending,
      link: otherwise === null ? 'always' : 'otherwise',
    },
    unread: [],
    remarks: [],
    lacks: null,
  };
}

function ending(line: Line, place: number): { actions: readonly Action[]; ending: Ending } | null {
  const isEnd = (at: number | null) => at !== null && (line.after(at, W.end) ?? at) === line.tokens.length;
  if (isEnd(line.after(place, W.stop))) return { actions: [], ending: 'stop' };
  const found = new WrittenActions(line).list(place);
  if (!found) return null;
  if (isEnd(line.after(found.next, W.continues))) return { actions: found.said, ending: 'continue' };
  return isEnd(line.after(found.next, W.thenStop)) || isEnd(found.next)
    ? { actions: found.said, ending: 'stop' }
    : null;
}
