import Link from 'next/link';
import type { CommandDefinition, TestDefinition } from '../../core/sieve/language/definition';
import { capabilitiesOf, commands, tests } from '../../core/sieve/language/table';
import { type CapabilityParts, capabilityParts, usageOf } from '../../core/sieve/language/usage';
import { comparatorNames, maybeComparator } from '../../core/sieve/match/comparators';
import classes from './LanguagePage.module.css';

/** The Sieve language reference, from the table that checks and runs scripts. */
export function LanguagePage() {
  const controls = [...commands.values()].filter(({ role }) => role === 'control');
  const actions = [...commands.values()].filter(({ role }) => role === 'action');
  return (
    <main className={classes.page}>
      <Link href="/" className={classes.mark}>
        Ysomeris
      </Link>
      <h1 className={classes.title}>Sieve language reference</h1>
      <p className={classes.lead}>
        The language is Sieve, as defined by RFC 5228 and its extensions. Scripts are read, checked, run and completed
        by this table. A script must name the extensions it uses in a require command at its beginning. Arguments in
        brackets are optional, and a list may be a single string.
      </p>
      <nav className={classes.contents} aria-label="Parts of the language">
        <a href="#actions">{actions.length} actions</a>
        <a href="#tests">{tests.size} tests</a>
        <a href="#controls">{controls.length} controls</a>
        <a href="#comparators">{comparatorNames().length} comparators</a>
        <a href="#capabilities">{capabilityParts().length} capabilities</a>
      </nav>
      <Definitions id="actions" title="Actions" rows={actions} />
      <Definitions id="tests" title="Tests" rows={[...tests.values()]} />
      <Definitions id="controls" title="Controls" rows={controls} />
      <section id="comparators">
        <h2 className={classes.heading}>Comparators</h2>
        <ul className={classes.plain}>
          {comparatorNames().map((name) => (
            <li key={name}>
              <code>{name}</code>
              <span>{comparatorWords(name)}</span>
            </li>
          ))}
        </ul>
      </section>
      <section id="capabilities">
        <h2 className={classes.heading}>Capabilities</h2>
        <ul className={classes.plain}>
          {capabilityParts().map((parts) => (
            <li key={parts.name} id={`capability-${parts.name}`}>
              <code>{parts.name}</code>
              <span>{partsWords(parts)}</span>
            </li>
          ))}
        </ul>
      </section>
    </main>
  );
}

interface DefinitionsProps {
  readonly id: string;
  readonly title: string;
  readonly rows: readonly (CommandDefinition | TestDefinition)[];
}

function Definitions({ id, title, rows }: DefinitionsProps) {
  return (
    <section id={id}>
      <h2 className={classes.heading}>{title}</h2>
      {[...rows]
        .sort((a, b) => (a.name < b.name ? -1 : 1))
        .map((row) => (
          <article key={row.name} id={`${row.kind}-${row.name}`} className={classes.entry}>
            <h3 className={classes.name}>{row.name}</h3>
            <p className={classes.about}>{row.about}</p>
            <code className={classes.usage}>{usageOf(row)}</code>
            <p className={classes.source}>
              {row.section}
              {capabilitiesOf(row).map((name) => (
                <span key={name}>
                  {' · needs '}
                  <a href={`#capability-${name}`}>{name}</a>
                </span>
              ))}
            </p>
          </article>
        ))}
    </section>
  );
}

function comparatorWords(name: string): string {
  const comparator = maybeComparator(name);
  const needs = comparator?.capability ? `needs ${comparator.capability}` : 'needs no extension';
  return comparator?.substring ? needs : `${needs}; not for :contains and :matches`;
}

function partsWords({ commands: brought, tests: asked, tags, comparators }: CapabilityParts): string {
  const parts = [
    ...brought,
    ...asked.map((name) => `the test ${name}`),
    ...tags,
    ...comparators.map((name) => `the comparator ${name}`),
  ];
  return parts.length > 0 ? parts.join(', ') : 'changes the meaning of strings and envelope parts';
}
