import { Bitmap } from '../../flow/bitmap';
import { domainOf } from '../../mail/address';
import { conditionOf, type Rule } from '../../rules/rule';
import { canonicalAddress } from '../../sieve/interpret/fate';
import { type AuditContext, type Evidence, evidenceOf, type RuleFlow } from '../context';
import type { Finding } from '../finding';
import type { MailBody } from '../known-mail';
import { exemptingSenders, isAlways, rewrite, withoutRule } from '../repairs';
import { fewSenders } from '../senders';

import { CLAIMS, REPAIRS, RISKS, STRENGTHS } from '../wording';

/** A rule that acts on at least this part of the mail that reaches it redirects most mail. */
const MOST = 0.5;

/**
 * `forward-risk`: a rule redirects mail to one of the user's own addresses, so that it can loop; or keeps no copy; or
 * redirects to an address to which mail is known to fail, or to a foreign domain all mail, most of it (half of what reaches the rule), or personal mail: to the user
 * alone, or from people they have written to.
 */
export function forwardRisks(context: AuditContext): Finding[] {
  return context.each(context.rules, (rule) => {
    const targets = rule.entry.actions.flatMap((action) => (action.action === 'redirect' ? [action.address] : []));
    return targets.length === 0 ? [] : findingOf(context, rule, targets);
  });
}

function findingOf(context: AuditContext, rule: RuleFlow, targets: readonly string[]): Finding[] {
  const { entry, place } = rule;
  const risks = risksOf(context, rule, targets);
  if (risks.length === 0) return [];
  // The messages of the first risk that has any are the evidence; any redirected message serves for the others.
  const evidence: Evidence | null =
    risks.map(({ find }) => evidenceOf(context, find)).find((found) => found !== null) ??
    evidenceOf(context, (body) => body.at(place).fired);
  if (!evidence) return [];
  return [
    {
      key: `forward-risk ${entry.id}`,
      kind: 'forward-risk',
      rules: [entry.id],
      certainty: 'shown',
      consequence: 'leaked',
      claim: CLAIMS['forward-risk'](
        entry.name,
        targets,
        risks.map(({ words }) => words),
      ),
      ...evidence,
      strength:
        evidence.messages.length > 0 && evidence.messages.every((number) => rule.fired.has(number))
          ? { part: evidence.messages.length, whole: rule.fired.count(), words: STRENGTHS['forward-risk'] }
          : null,
      repairs: [
        ...withCopy(context, entry),
        ...exemptingSenders(context.chain, entry, fewSenders(personalOf(context, rule), context.mail)),
        ...withoutRule(context.chain, entry),
      ],
    },
  ];
}

interface Risk {
  readonly words: string;
  readonly find: (body: MailBody) => Bitmap;
}

function risksOf(context: AuditContext, rule: RuleFlow, targets: readonly string[]): Risk[] {
  const { mail } = context;
  const { own } = mail.mail;
  const { entry, place, fired, reached } = rule;
  const risks: Risk[] = [];
  const addresses = targets.map((target) => canonicalAddress(target).toLowerCase());
  const firedIn = (body: MailBody) => body.at(place).fired;
  if (addresses.some((address) => own.has(address))) {
    risks.push({ words: RISKS.own, find: firedIn });
  }
  const leftNowhere = (body: MailBody) => {
    let delivered = body.flow.fates.none;
    for (const { messages } of body.flow.fates.folders.values()) delivered = delivered.or(messages);
    return firedIn(body).without(delivered);
  };
  if (
    entry.actions.some((action) => action.action === 'redirect' && !action.copy) &&
    evidenceOf(context, leftNowhere)
  ) {
    risks.push({ words: RISKS['no copy'], find: leftNowhere });
  }
  const bouncing = addresses.flatMap((address): Risk[] => {
    const reports = mail.mail.bounces.get(address);
    if (!reports) return [];
    const bitmap = Bitmap.of(mail.mail.messages.length, reports);
    const find = (body: MailBody) => (body === context.stored ? bitmap : body.flow.fates.none);
    return [{ words: RISKS.bounces(address, reports.length), find }];
  });
  const domains = new Set([...own].map((address) => domainOf(address)));
  const foreign = addresses.some((address) => !domains.has(domainOf(address)));
  if (!foreign) return [...risks, ...bouncing];
  const always = isAlways(conditionOf(entry));
  const takesAll = always || (reached.count() >= 20 && fired.count() >= reached.count() * MOST);
  if (takesAll) risks.push({ words: always ? RISKS.all : RISKS.most, find: firedIn });
  const personal = personalOf(context, rule);
  if (!takesAll && !personal.isEmpty()) {
    const find = (body: MailBody) => (body === context.stored ? personal : body.flow.fates.none);
    risks.push({ words: RISKS.personal(personal.count()), find });
  }
  return [...risks, ...bouncing];
}

/** To the user alone, or from people they have written to. */
const personalOf = ({ mail }: AuditContext, { fired }: RuleFlow): Bitmap => fired.and(mail.alone.or(mail.known));

function withCopy({ chain }: AuditContext, entry: Rule) {
  if (!entry.actions.some((action) => action.action === 'redirect' && !action.copy)) return [];
  const actions = entry.actions.map((action) => (action.action === 'redirect' ? { ...action, copy: true } : action));
  return [rewrite(chain, entry, { ...entry, actions }, REPAIRS['keep a copy'](entry.name))];
}
