import { json } from '@sveltejs/kit';
import { answered, deviceOf, requestOf } from '$lib/server/bench';
import type { RequestHandler } from './$types';

/** What a copy will hold. */
export const GET: RequestHandler = ({ params, url }) =>
  answered(async () => json(await deviceOf(params.device).wire(requestOf(url), true).list()));
