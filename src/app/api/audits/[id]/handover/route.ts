import { capabilitiesIn } from '../../../../../core/handover/target';
import { Refusal } from '../../../../../server/audits/audits';
import { store } from '../../../../../server/database/open';
import { keepHandoverSettings } from '../../../../../server/handover/handover';
import { guarded, readJson } from '../../../../../server/http/guarded';
import { handoverShape } from '../../../../../server/http/shapes';

/** Sets the target of the script, and the decisions and acceptances for it; fields that are absent stay unchanged. */
export const PUT = guarded(async (request, { params }: RouteContext<'/api/audits/[id]/handover'>) => {
  const { id } = await params;
  const { said, ...change } = await readJson(request, handoverShape);
  const capabilities = said === undefined ? {} : { target: 'own' as const, capabilities: spoken(said) };
  keepHandoverSettings(store(), id, { ...change, ...capabilities });
  return Response.json({});
});

function spoken(said: string): string[] {
  const found = capabilitiesIn(said);
  if (!found)
    throw new Refusal('This line contains no known Sieve capability. Enter the value of the server’s SIEVE line.', 422);
  return found;
}
