import fc from 'fast-check';
import { contradictionsIn, type Profile, withProfile } from '../rules/profile';

/** Sound profiles that do not run rules as Sieve does. */
export const profiles: fc.Arbitrary<Profile> = fc
  .record<Profile>({
    order: fc.constantFrom('listed', 'none'),
    ending: fc.constantFrom('rule', 'first', 'all'),
    places: fc.constantFrom('several', 'first', 'last'),
    inbox: fc.constantFrom('rest', 'place'),
    delete: fc.constantFrom('bin', 'end'),
    bin: fc.constant('Gone'),
    deleteWins: fc.boolean(),
  })
  .filter((profile) => {
    const isSieve = withProfile({ entries: [], closing: '' }, profile).profile === undefined;
    return !isSieve && contradictionsIn(profile).length === 0;
  });
