import { Refusal } from '../../../../server/audits/audits';
import { guarded } from '../../../../server/http/guarded';
import { runner } from '../../../../server/lifecycle/runner';

export const DELETE = guarded(async (_request, { params }: RouteContext<'/api/jobs/[id]'>) => {
  const { id } = await params;
  // Cancelling a job that has ended meanwhile succeeds too.
  return Response.json({ cancelled: runner().cancel(id) });
});

export const GET = guarded(async (_request, { params }: RouteContext<'/api/jobs/[id]'>) => {
  const { id } = await params;
  const job = runner().maybeJob(id);
  if (!job) throw new Refusal('This job no longer exists.', 404);
  return Response.json({ state: job.state, message: job.message });
});
