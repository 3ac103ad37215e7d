import { capabilitiesIn } from '../../../../../core/handover/target';
import { Refusal } from '../../../../../server/audits/audits';
import { store } from '../../../../../server/database/open';
import { handoverSettings, keepHandoverSettings } from '../../../../../server/handover/handover';
import { guarded, readJson } from '../../../../../server/http/guarded';
import { handoverShape } from '../../../../../server/http/shapes';

/** Sets for whom the script is written, and what is decided and accepted for that; what is not named stays as it is. */
export const PUT = guarded(async (request, { params }: RouteContext<'/api/audits/[id]/handover'>) => {
  const { id } = await params;
  const { said, ...change } = await readJson(request, handoverShape);
  const capabilities = said === undefined ? {} : { target: 'own' as const, capabilities: spoken(said) };
  keepHandoverSettings(store(), id, { ...handoverSettings(store(), id), ...change, ...capabilities });
  return Response.json({});
});

function spoken(said: string): string[] {
  const found = capabilitiesIn(said);
  if (!found) throw new Refusal('None of this is a capability of Sieve that is known here.', 422);
  return found;
}
