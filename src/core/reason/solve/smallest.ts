/** Removes from `all` whatever can go while the rest is still `enough`; large lists are halved first. */
export function smallest<T>(all: readonly T[], enough: (kept: readonly T[]) => boolean): T[] {
  let kept = [...all];
  for (let size = Math.ceil(kept.length / 2); size >= 1; size = size === 1 ? 0 : Math.ceil(size / 2)) {
    for (let at = 0; at < kept.length; ) {
      const rest = [...kept.slice(0, at), ...kept.slice(at + size)];
      if (rest.length < kept.length && enough(rest)) kept = rest;
      else at += size;
    }
  }
  return kept;
}
