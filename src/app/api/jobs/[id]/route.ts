import { Refusal } from '../../../../server/audits';
import { guarded } from '../../../../server/http';
import { runner } from '../../../../server/server';

type Context = { params: Promise<{ id: string }> };

export const DELETE = guarded(async (_request, { params }: Context) => {
  const { id } = await params;
  if (!runner().cancel(id)) throw new Refusal('This work has already ended.', 409);
  return Response.json({});
});

export const GET = guarded(async (_request, { params }: Context) => {
  const { id } = await params;
  const job = runner().maybeJob(id);
  if (!job) throw new Refusal('There is no such work.', 404);
  return Response.json({ state: job.state, message: job.message });
});
