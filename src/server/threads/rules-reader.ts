import type { RulesReader } from '../gather/imported';
import { apart } from './pool';

/** Rules as any file may hold them, a script of megabytes among them, read in a thread of its own. */
export const readsApart: RulesReader = (fileName, octets) => apart('rules', fileName, octets);
