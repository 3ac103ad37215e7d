import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { beforeAll, describe, expect, test } from 'vitest';
import { z } from 'zod';
import { auditChain } from '../src/core/audit/catalogue';
import type { Finding } from '../src/core/audit/finding';
import { DOCUMENTED } from '../src/core/audit/findings-document';
import { KINDS } from '../src/core/audit/kind-words';
import { MailGatherer } from '../src/core/audit/stored';
import { evaluateAtoms } from '../src/core/flow/atoms';
import { MemoryColumns } from '../src/core/flow/columns';
import { type Flow, runFlow } from '../src/core/flow/flow';
import { atomsOf } from '../src/core/flow/program';
import { Verifier } from '../src/core/handover/verify';
import { splitMbox } from '../src/core/mail/mbox';
import { envelopeOf, partsOf, readMessage } from '../src/core/mail/message';
import { readingOf } from '../src/core/mail/reading';
import { chainFromSieve } from '../src/core/rules/from-sieve';
import { sieveFromChain } from '../src/core/rules/to-sieve';
import { demoMail } from './mail';
import { ME, OWN } from './people';
import { mboxOf } from './write';

const here = (name: string) => join(import.meta.dirname, name);
const planted = z
  .object({ planted: z.array(z.object({ kind: z.string(), rules: z.array(z.string()) })) })
  .parse(JSON.parse(readFileSync(here('planted.json'), 'utf8'))).planted;

const mail = demoMail();
const read = chainFromSieve(readFileSync(here('rules.sieve'), 'utf8'));
const { chain } = read;
const names = new Map(chain.entries.map((entry) => [entry.id, entry.name]));
/** The current date that rules see. */
const NOW = Date.UTC(2026, 10, 1);
let findings: readonly Finding[] = [];
let flow: Flow;

beforeAll(() => {
  const columns = new MemoryColumns();
  const gatherer = new MailGatherer();
  for (const { raw, folder } of mail) {
    const message = readMessage(raw);
    gatherer.add({ message, folder, flags: [] });
    columns.add(message, envelopeOf(message, ME));
  }
  const needed = atomsOf(chain);
  const atoms = evaluateAtoms(needed, columns);
  flow = runFlow(chain, atoms, columns.count);
  ({ findings } = auditChain(
    { chain, flow, atoms, mail: gatherer.mail(OWN) },
    { clock: { fixed: null, otherwise: NOW } },
  ));
}, 60_000);

describe('the demo', () => {
  test('is as large as promised, and the same in every run', () => {
    expect(chain.entries.length).toBeGreaterThanOrEqual(60);
    expect(mail.length).toBeGreaterThanOrEqual(4000);
    expect(mboxOf(demoMail()).equals(mboxOf(mail))).toBe(true);
  });

  test('its script is valid and all of it becomes rules', () => {
    expect(read.diagnostics).toEqual([]);
    expect(chain.entries.filter((entry) => entry.kind === 'script')).toEqual([]);
  });

  test('findings have no certainty and no repair that the documentation of their kind lacks', () => {
    // Names, folders and words differ; the rest of a title is its form.
    const form = (title: string) =>
      title
        .replace(/“[^”]*”(?:(?:, | and )(?:“[^”]*”|\d+ more))*/g, '“…”')
        .replace(/\(.*\)|: .*/g, '…')
        .replace(/the list \S+/, 'the list')
        .replace(/ and \d+ linked with it/, '')
        .replace(/discards|rejects/, '…')
        .trim();
    for (const { kind, certainty, claim, repairs } of findings) {
      expect(DOCUMENTED[kind].certainty, claim).toContain(certainty);
      const forms = DOCUMENTED[kind].repairs.map(form);
      for (const { title } of repairs) expect(forms, `${kind}: ${title}`).toContain(form(title));
    }
  });

  test('its mail survives being written to an mbox and read back', () => {
    const entries = [...splitMbox(mboxOf(mail))];
    expect(entries.length).toBe(mail.length);
    entries.forEach((entry, index) => {
      expect(Buffer.from(entry.raw).equals(Buffer.from(mail[index]?.raw as Uint8Array))).toBe(true);
    });
  });

  test('every message that has only HTML can be read, and nothing of it would run', () => {
    const html = mail.map(({ raw }) => readMessage(raw)).filter((message) => partsOf(message).type === 'text/html');
    expect(html.length).toBeGreaterThan(300);
    for (const message of html) {
      const { texts } = readingOf(message);
      expect(texts).toHaveLength(1);
      expect(texts[0]?.text.length).toBeGreaterThan(10);
      expect(texts[0]?.text).not.toMatch(/alert|<p>/);
    }
  });

  test.each(planted)('planted: $kind $rules', ({ kind, rules }) => {
    const found = findings.filter((finding) => finding.kind === kind);
    const named = found.map((finding) => finding.rules.map((id) => names.get(id)));
    expect(named).toContainEqual(rules);
  });

  test('every kind that needs no target is planted at least twice', () => {
    const counts = new Map<string, number>();
    for (const { kind } of planted) counts.set(kind, (counts.get(kind) ?? 0) + 1);
    expect(Object.keys(KINDS).filter((kind) => kind !== 'not-portable' && (counts.get(kind) ?? 0) < 2)).toEqual([]);
  });

  test('what is said to be proved or shown to be so of stored mail, is so', () => {
    const entryOf = (id: string | undefined) => flow.entries.find(({ entry }) => entry.id === id);
    for (const { kind, certainty, rules, messages } of findings) {
      const [a, b] = rules.map(entryOf);
      if (kind === 'contradiction') expect(a?.held.isEmpty()).toBe(true);
      if (kind === 'shadowed' && certainty === 'proved') expect(a?.fired.isEmpty()).toBe(true);
      if (kind === 'runs-on')
        expect(messages.every((number) => a?.fired.has(number) && (!rules[1] || b?.fired.has(number)))).toBe(true);
      if (kind === 'cut-short') expect(messages.every((number) => a?.stopped.has(number))).toBe(true);
    }
  });

  test('every rule but those planted as dead reaches some mail', () => {
    const idle = flow.entries.filter((entry) => entry.held.isEmpty()).map((entry) => entry.entry.name);
    expect(idle).toEqual([
      'Old wheel committee',
      'Reports in French',
      'Neither large nor small',
      'Ferry times',
      'Suspected by the server',
      'Any order',
      'The Okafors',
      'Ruth',
      'Seen to already',
      'Unsubscribing in the subject',
    ]);
  });

  test('the exported script gives every message the same fate', () => {
    const verifier = new Verifier(sieveFromChain(chain).text, flow.fates);
    mail.forEach(({ raw }, index) => {
      const message = readMessage(raw);
      verifier.check(index, message, envelopeOf(message, ME));
    });
    expect(verifier.record().differences).toEqual([]);
    expect(verifier.record()).toMatchObject({ faults: [], messages: mail.length, sameFate: mail.length });
  });
});
