import { isConfirmed, withoutRepeated } from '../../core/audit/grouping';
import { KINDS } from '../../core/audit/kind-words';
import { assuming, counted } from '../../core/audit/wording';
import type { Report } from '../../core/handover/report';
import { READY_TARGETS } from '../../core/handover/target';
import { stepTitle } from '../../core/repair/told-steps';
import { maybeOutline, type OutlineLine } from '../../core/rules/outline';
import { type Profile, profileOf } from '../../core/rules/profile';
import type { ChainEntry, Rule, TestTree } from '../../core/rules/rule';
import { sentenceOf } from '../../core/rules/sentence';
import { figure } from '../../core/text/figure';
import { getAudit } from '../audits/audits';
import { maybeFlow } from '../chain/simulation';
import { changesView } from '../changes/view';
import type { Store } from '../database/open';
import { maybeStatedFindings } from '../findings/for-target';
import { setAsideAmong } from '../findings/set-aside';
import { trafficSize } from '../mail/traffic';
import { planView } from '../plan/view';
import { exportView } from './export-view';
import type { GateView } from './gate';
import { maybeSteps } from './steps-view';

/** The report of an audit for others; `discreet`: without addresses and without keys of rules. */
export function reportOf(store: Store, auditId: string, discreet: boolean): Report {
  const audit = getAudit(store, auditId);
  const flow = maybeFlow(store, audit, audit.draft);
  const said = (text: string) => (discreet ? withoutAddresses(text) : text);
  const findings = withoutRepeated(maybeStatedFindings(store, audit) ?? []).filter(isConfirmed);
  const asides = setAsideAmong(store, audit, findings);
  const { comparison, history } = changesView(store, auditId);
  const view = exportView(store, auditId);
  const { answers, left, done } = planView(store, auditId);
  const quotedless = (text: string) => said(discreet ? withoutQuotedKeys(text, audit.draft.entries) : text);
  const { verification } = view;
  return {
    title: `Audit of incoming-mail rules: ${said(audit.name)}`,
    date: new Date().toISOString().slice(0, 10),
    total: trafficSize(store, audit),
    sent: audit.storedCount - trafficSize(store, audit),
    plan: done.toReversed().map(({ part, words, why, messages, ends }) => {
      return { part, words: quotedless(words), why: quotedless(why), effect: counted(messages, 'message'), ends };
    }),
    answers: answers.map(({ words, isUnmet }) =>
      quotedless(isUnmet ? `${words}; no change was found that does this` : words),
    ),
    declined: left.map(({ title, reason }) => ({ title: quotedless(title), reason: said(reason) })),
    gate: gateLines(view.gate).map(({ what, state }) => ({ what: quotedless(what), state: quotedless(state) })),
    rules: audit.draft.entries.map((entry, at) => ({
      number: at + 1,
      name: said(entry.name),
      on: entry.on,
      says: toldOf(discreet ? withoutKeys(entry) : entry, profileOf(audit.draft)).map(({ depth, text }) => ({
        depth,
        text: said(text),
      })),
      fired: flow?.entries[at]?.fired.count() ?? null,
    })),
    findings: findings.map((finding) => ({
      kind: KINDS[finding.kind].title,
      consequence: finding.consequence,
      claim: said(discreet ? withoutQuotedKeys(finding.claim, audit.draft.entries) : finding.claim),
      certainty: assuming(finding.certainty, finding.assumes ?? []),
      evidence:
        finding.messages.length > 0
          ? `${figure(finding.messages.length)} of ${counted(trafficSize(store, audit), 'message')}`
          : '',
      aside: said(asides.get(finding.key)?.reason ?? ''),
    })),
    changes: history
      .filter(({ undone }) => !undone)
      .map(({ words, why, changedMessages }) => ({
        words: said(words),
        why: said(discreet ? withoutQuotedKeys(why, audit.draft.entries) : why),
        effect: counted(changedMessages, 'message'),
      })),
    moves: (comparison?.moves ?? []).map(({ from, to, count }) => ({ from: said(from), to: said(to), count })),
    steps: (maybeSteps(store, audit)?.steps ?? []).map((step) => ({
      title: said(stepTitle(step)),
      // Sentences contain the keys of rules.
      before: discreet ? '' : (step.before ?? ''),
      after: discreet ? '' : (step.after ?? ''),
    })),
    target: READY_TARGETS.find(({ id }) => id === view.settings.target)?.title ?? 'announced by the server',
    requires: view.requires,
    costs: view.costs.map(({ name, words, messages, none }) => ({
      name: said(name),
      words: [
        ...words,
        none ? 'no message has a different destination' : messages === null ? '' : counted(messages, 'stored message'),
      ]
        .filter((part) => part !== '')
        .join('; '),
    })),
    verification: verification
      ? [
          `${verification.verified ? 'Verified' : 'Not equivalent'}: ${figure(verification.sameFate)} of ${counted(verification.messages, 'message')} have the same destination${verification.changed > 0 ? `, listed differences aside, through which ${counted(verification.changed, 'stored message')} have a different destination than under the rules` : ''}.`,
          ...verification.checks,
          `SHA-256 of the script: ${verification.hash}`,
        ]
      : [],
    leftOut: discreet ? 'This report contains no addresses, subjects or keys of rules.' : '',
  };
}

function gateLines({ expectations, probes, grave, override }: GateView): Report['gate'] {
  return [
    ...expectations.map(({ words, broken, probes: failed }) => ({
      what: words,
      state: [
        broken === null
          ? 'not checked yet'
          : broken === 0
            ? 'met'
            : `${counted(broken, 'stored message')} not as expected`,
        ...(failed.length > 0 ? [`${counted(failed.length, 'probe')} not as expected`] : []),
      ].join('; '),
    })),
    ...probes.map(({ name, isMet }) => ({ what: `Probe “${name}”`, state: isMet ? 'as expected' : 'not as expected' })),
    ...grave.map(({ claim }) => ({ what: claim, state: 'neither repaired nor set aside' })),
    ...(override ? [{ what: 'Exported all the same', state: override.reason }] : []),
  ];
}

const HIDDEN = '…';

/** Anything with an @, and domain names. */
const withoutAddresses = (text: string): string =>
  text.replace(/[^\s“”"<>(),;]+@[^\s“”"<>(),;]*/g, HIDDEN).replace(/\b(?:[\p{L}\p{N}-]+\.)+\p{L}{2,}\b/gu, HIDDEN);

/** A rule in one sentence or, if much is nested, in indented lines. */
const toldOf = (entry: ChainEntry, profile: Profile | undefined): readonly OutlineLine[] =>
  maybeOutline(entry, profile) ?? [{ depth: 0, text: sentenceOf(entry, profile) }];

/** The same without its keys and redirect addresses. */
function withoutKeys(entry: ChainEntry): ChainEntry {
  if (entry.kind === 'script') return entry;
  const actions = entry.actions.map((action) => {
    const sends = action.action === 'redirect' || action.action === 'redirect-further';
    return sends ? { ...action, address: HIDDEN } : action;
  });
  return { ...entry, tests: hidden(entry.tests), unless: entry.unless.map(hidden), actions };
}

function hidden(tree: TestTree): TestTree {
  if (tree.kind !== 'leaf') return { ...tree, children: tree.children.map(hidden) };
  const { test } = tree;
  if ('keys' in test) return { ...tree, test: { ...test, keys: [HIDDEN] } };
  if (test.test !== 'compared') return tree;
  const subject = test.subject.of === 'string' ? { ...test.subject, texts: [HIDDEN] } : test.subject;
  return { ...tree, test: { ...test, subject, by: { ...test.by, keys: [HIDDEN] } } };
}

/** Claims quote names of rules and folders, which stay, and keys, which are removed. */
function withoutQuotedKeys(claim: string, entries: readonly ChainEntry[]): string {
  const kept = new Set(entries.flatMap((entry) => [entry.name, ...(entry.kind === 'rule' ? foldersOf(entry) : [])]));
  return claim.replace(/“([^”]*)”/g, (whole, inner: string) => (kept.has(inner) ? whole : `“${HIDDEN}”`));
}

const foldersOf = ({ actions }: Rule): string[] =>
  actions.flatMap((action) => (action.action === 'fileinto' ? [action.folder] : []));
