import type { HandoverSettings } from '../../server/handover/handover';

/** What the user chooses for the hand-over; `said`: what a server says of itself, as it was pasted. */
export type HandoverChange = Partial<Omit<HandoverSettings, 'capabilities'>> & { readonly said?: string };
