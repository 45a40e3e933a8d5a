import { error, text } from '@sveltejs/kit';
import { CardDevice } from '$bench/index';
import { fromHex, toHex } from '$core/host';
import { answered, deviceOf } from '$lib/server/bench';
import type { RequestHandler } from './$types';

/** Sends one command to the card in the reader; both sides in hex. */
export const POST: RequestHandler = ({ request }) =>
  answered(async () => {
    const device = deviceOf('card');
    const command = fromHex(await request.text());
    if (!(device instanceof CardDevice) || !command || command.length < 5)
      error(400, 'That is no command to a card.');
    return text(toHex(device.transmit(command)));
  });
