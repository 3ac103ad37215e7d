/** A tree without its spans and source, so that trees read from different texts can be compared. */
export function withoutSpans(value: unknown): unknown {
  if (Array.isArray(value)) return value.map(withoutSpans);
  if (value === null || typeof value !== 'object') return value;
  const kept = Object.entries(value).filter(([name]) => !['start', 'end', 'source'].includes(name));
  return Object.fromEntries(kept.map(([name, part]) => [name, withoutSpans(part)]));
}
