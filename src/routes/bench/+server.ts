import { json } from '@sveltejs/kit';
import { BENCH } from '$demo/devices';
import { answered } from '$lib/server/bench';

/** Everything that is on the bench. */
export function GET(): Promise<Response> {
  return answered(async () => {
    const views = [];
    for (const device of BENCH) views.push(await device.view());
    return json(views);
  });
}

/** Brings back the first state of all of it. */
export function DELETE(): Response {
  for (const device of BENCH) device.reset();
  return new Response(null, { status: 204 });
}
