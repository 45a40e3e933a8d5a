import { error } from '@sveltejs/kit';
import { z } from 'zod';
import { PART } from '$core/acquire';
import { answered, deviceOf, requestOf } from '$lib/server/bench';
import type { RequestHandler } from './$types';

const placeSchema = z.object({
  path: z.string().min(1),
  offset: z.coerce.number().int().min(0),
  length: z.coerce.number().int().min(1).max(PART)
});

/** Part of a file, with the checksum that the device's side gives. */
export const GET: RequestHandler = ({ params, url }) =>
  answered(async () => {
    const place = placeSchema.safeParse(Object.fromEntries(url.searchParams));
    if (!place.success) error(400, 'The question names no part of a file.');
    const { path, offset, length } = place.data;
    const wire = deviceOf(params.device).wire(requestOf(url), true);
    const { bytes, sha256 } = await wire.read(path, offset, length);
    return new Response(Uint8Array.from(bytes), {
      headers: { 'Content-Type': 'application/octet-stream', 'X-Part-Sha256': sha256 }
    });
  });
