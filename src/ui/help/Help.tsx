import Link from 'next/link';
import { KINDS, PROOF_ASSUMES } from '../../core/audit/wording';
import { keysOf } from '../../core/text/lookup';
import { CERTAINTY_NAMES, CERTAINTY_WORDS, CONSEQUENCE_WORDS } from '../findings/finding-words';
import classes from '../language/LanguagePage.module.css';
import { KEYS } from './keys';

const CERTAINTIES = keysOf(CERTAINTY_NAMES);
const KIND_ROWS = keysOf(KINDS).map((kind) => [kind, KINDS[kind]] as const);

/** What the words of the audit mean, each with a small example, and what the keys do. */
export function Help() {
  return (
    <main className={classes.page}>
      <Link href="/" className={classes.mark}>
        Ysomeris
      </Link>
      <h1 className={classes.title}>What the audit says, and how sure it is</h1>
      <p className={classes.lead}>
        Bring in your rules and your stored mail, look at the chain and at what was found, mend the draft with every
        effect shown beforehand, and take the script away once it was verified. Nothing touches your mailbox: all of it
        is done on copies.
      </p>
      <nav className={classes.contents} aria-label="Contents">
        <a href="#certainty">How sure it is</a>
        <a href="#consequence">What follows from it</a>
        <a href="#kinds">Kinds of findings</a>
        <a href="#keys">Keys</a>
        <Link href="/language">What may stand in a script</Link>
      </nav>
      <h2 id="certainty" className={classes.heading}>
        How sure it is
      </h2>
      {CERTAINTIES.map((certainty) => (
        <Entry key={certainty} name={CERTAINTY_NAMES[certainty]} lines={[CERTAINTY_WORDS[certainty]]} />
      ))}
      <p>{PROOF_ASSUMES}</p>
      <h2 id="consequence" className={classes.heading}>
        What follows from it, the gravest first
      </h2>
      <p>{Object.values(CONSEQUENCE_WORDS).join('; ')}.</p>
      <h2 id="kinds" className={classes.heading}>
        Kinds of findings
      </h2>
      {KIND_ROWS.map(([kind, { title, meaning, example }]) => (
        <Entry key={kind} name={title} id={kind} lines={[meaning, `For example: ${example}`]} />
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
