import Link from 'next/link';
import { KINDS } from '../../core/audit/kind-words';
import { PROOF_ASSUMES } from '../../core/audit/wording';
import { keysOf } from '../../core/text/lookup';
import { CERTAINTY_NAMES, CERTAINTY_WORDS, CONSEQUENCE_WORDS } from '../findings/finding-words';
import classes from '../language/LanguagePage.module.css';
import { KEYS } from './keys';

const CERTAINTIES = keysOf(CERTAINTY_NAMES);
const KIND_ROWS = keysOf(KINDS).map((kind) => [kind, KINDS[kind]] as const);

/** Explains certainty, consequences and kinds of findings, with examples, and the keyboard shortcuts. */
export function Help() {
  return (
    <main className={classes.page}>
      <Link href="/" className={classes.mark}>
        Ysomeris
      </Link>
      <h1 className={classes.title}>Findings and their certainty</h1>
      <p className={classes.lead}>
        Import your rules and your stored mail, review the chain and its findings, repair the draft with every effect
        shown beforehand, and download the script once it is verified. Ysomeris works on copies; your mailbox is never
        touched.
      </p>
      <nav className={classes.contents} aria-label="Contents">
        <a href="#certainty">Certainty</a>
        <a href="#consequence">Consequences</a>
        <a href="#kinds">Kinds of findings</a>
        <a href="#keys">Keys</a>
        <Link href="/language">Sieve language reference</Link>
      </nav>
      <h2 id="certainty" className={classes.heading}>
        Certainty
      </h2>
      {CERTAINTIES.map((certainty) => (
        <Entry key={certainty} name={CERTAINTY_NAMES[certainty]} lines={[CERTAINTY_WORDS[certainty]]} />
      ))}
      <p>{PROOF_ASSUMES}</p>
      <h2 id="consequence" className={classes.heading}>
        Consequences, the gravest first
      </h2>
      <p>{Object.values(CONSEQUENCE_WORDS).join('; ')}.</p>
      <h2 id="kinds" className={classes.heading}>
        Kinds of findings
      </h2>
      {KIND_ROWS.map(([kind, { title, meaning, why, remedy, example }]) => (
        <Entry key={kind} name={title} id={kind} lines={[meaning, `For example: ${example}`, why, remedy]} />
      ))}
      <h2 id="keys" className={classes.heading}>
        Keys
      </h2>
      {KEYS.map(({ where, keys }) => (
        <Entry key={where} name={where} lines={keys.map(([key, words]) => `${key}: ${words}`)} />
      ))}
    </main>
  );
}

function Entry({ name, id, lines }: { name: string; id?: string; lines: readonly string[] }) {
  return (
    <section className={classes.entry} id={id}>
      <h3 className={classes.name} style={{ gridRow: `span ${lines.length}` }}>
        {name}
      </h3>
      {lines.map((line) => (
        <div key={line}>{line}</div>
      ))}
    </section>
  );
}
