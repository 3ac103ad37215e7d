import type { HandoverSettings } from '../../server/handover/handover';

/** The user's settings of an export; `said`: a pasted capability line. */
export type HandoverChange = Partial<Omit<HandoverSettings, 'capabilities'>> & { readonly said?: string };
