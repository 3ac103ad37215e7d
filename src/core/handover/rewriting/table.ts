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
 * The rewritings without a capability, in the order they are applied: those that introduce another capability come
 * before the one that removes it. A capability without a row is not portable: tests of the body, of numbers, of MIME
 * parts, of a server's filter, and script blocks except constant `variables`.
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
