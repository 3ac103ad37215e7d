import {
  withoutCopy,
  withoutEreject,
  withoutFileinto,
  withoutFlags,
  withoutMailbox,
  withoutNotify,
  withoutReject,
  withoutSpecialUse,
  withoutVacation,
  withoutVacationSeconds,
} from './actions';
import { withoutDate } from './dates';
import {
  withoutEnvelope,
  withoutIndex,
  withoutRegex,
  withoutRelational,
  withoutSubaddress,
  withoutUnicodeCasemap,
} from './tests';
import type { Transformation } from './transformation';

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
