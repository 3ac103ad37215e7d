import type { OutlineLine } from '../../core/rules/outline';
import { Quoted } from './Quoted';
import classes from './RuleWords.module.css';

interface Props {
  readonly rule: { readonly sentence: string; readonly outline: readonly OutlineLine[] | null };
  readonly className: string | undefined;
}

/** A rule as one sentence, or as an indented list if much is nested in it. */
export function RuleWords({ rule: { sentence, outline }, className }: Props) {
  if (!outline)
    return (
      <p className={className}>
        <Quoted>{sentence}</Quoted>
      </p>
    );
  return <Lines lines={outline} className={`${className ?? ''} ${classes.outline}`} />;
}

/** Lines at one depth; deeper lines become a list below their parent. */
function Lines({ lines, className }: { readonly lines: readonly OutlineLine[]; readonly className: string }) {
  return (
    <ul className={className}>
      {groupsOf(lines).map(({ head, within }, at) => (
        <li key={`${at} ${head.text}`}>
          <Quoted>{head.text}</Quoted>
          {within.length > 0 && <Lines lines={within} className={classes.inner ?? ''} />}
        </li>
      ))}
    </ul>
  );
}

interface Group {
  readonly head: OutlineLine;
  readonly within: OutlineLine[];
}

export function groupsOf(lines: readonly OutlineLine[]): Group[] {
  const groups: Group[] = [];
  for (const line of lines) {
    const last = groups.at(-1);
    if (last && line.depth > last.head.depth) last.within.push(line);
    else groups.push({ head: line, within: [] });
  }
  return groups;
}
