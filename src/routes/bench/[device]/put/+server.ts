import { error, json } from '@sveltejs/kit';
import { Handset } from '$bench/index';
import { answered, deviceOf } from '$lib/server/bench';
import type { RequestHandler } from './$types';

/** Merges the messages of a store into a handset; `dry` only tells what would come. */
export const POST: RequestHandler = ({ params, url, request }) =>
  answered(async () => {
    const device = deviceOf(params.device);
    if (!(device instanceof Handset)) error(400, 'Messages are put back into handsets.');
    const store = new Uint8Array(await request.arrayBuffer());
    return json(await device.put(store, url.searchParams.has('dry')));
  });
