import { withoutUnicodeCasemap } from './casemap';
import { withoutCopy } from './copy';
import { withoutRelational } from './counts';
import { withoutDate } from './dates';
import { withoutEnvelope } from './envelope';
import { withoutFlags } from './flags';
import { withoutFileinto, withoutMailbox, withoutSpecialUse } from './folders';
import { withoutIndex } from './occurrence';
import { withoutEreject, withoutReject } from './refusal';
import { withoutNotify, withoutVacation, withoutVacationSeconds } from './replies';
import { withoutSubaddress } from './subaddress';
import type { Transformation } from './transformation';
import { withoutRegex } from './without-regex';

/**
 * The ways to say rules without a capability, in the order in which they are taken: those that need another one come before the
 * one that does without that. What has no row cannot be said without its capability: tests of the text, of numbers, of parts of a
 * message, of what a server's filter says, and script blocks but for constant `variables`.
 */
export const TRANSFORMATIONS: readonly Transformation[] = [
  withoutIndex,
  withoutDate,
  withoutRelational,
  withoutRegex,
  withoutSubaddress,
  withoutEnvelope,
  withoutUnicodeCasemap,
  withoutVacationSeconds,
  withoutVacation,
  withoutNotify,
  withoutEreject,
  withoutReject,
  withoutFlags,
  withoutSpecialUse,
  withoutMailbox,
  withoutFileinto,
  withoutCopy,
];
