import { error, json } from '@sveltejs/kit';
import { z } from 'zod';
import { answered, deviceOf } from '$lib/server/bench';
import type { RequestHandler } from './$types';

const actSchema = z.object({ act: z.string().max(40), value: z.string().max(200).optional() });

/** Does something to a device, as its owner or the technician would, and tells how it stands then. */
export const POST: RequestHandler = ({ params, request }) =>
  answered(async () => {
    const device = deviceOf(params.device);
    const act = actSchema.safeParse(await request.json().catch(() => null));
    if (!act.success) error(400, 'The request names nothing that could be done.');
    await device.act(act.data);
    return json(await device.view());
  });

/** Brings back its first state. */
export const DELETE: RequestHandler = ({ params }) => {
  deviceOf(params.device).reset();
  return new Response(null, { status: 204 });
};
