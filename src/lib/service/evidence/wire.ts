import { z } from 'zod';
import { fromHex, toHex } from '$core/host';
import {
  COPY_DEPTHS,
  CopyError,
  WaitError,
  type CopyListing,
  type CopyPart,
  type CopyWire,
  type Transmit
} from '$core/acquire';
import type { CopyOrder } from '../api/protocol';

const FAULTS = [
  'unplugged',
  'battery-empty',
  'permission-withdrawn',
  'no-room',
  'read-error',
  'connection-lost',
  'limit-reached',
  'card-removed',
  'not-ready',
  'damaged-in-transit'
] as const;

const faultSchema = z.object({
  fault: z.enum(FAULTS),
  message: z.string(),
  at: z.object({ path: z.string(), offset: z.number() }).nullable()
});

const waitSchema = z.object({ milliseconds: z.number() });

const listingSchema = z.object({
  device: z.string(),
  facts: z.record(z.string(), z.string()),
  depth: z.enum(COPY_DEPTHS),
  kinds: z.array(z.string()).nullable(),
  files: z.array(z.object({ path: z.string(), size: z.number() })),
  state: z.string()
});

/** Asks the bench; what it refuses becomes the error that it stands for. */
async function asked(url: string, init?: RequestInit): Promise<Response> {
  let response: Response;
  try {
    response = await fetch(url, init);
  } catch (error) {
    // The browser tells no more than that nobody answers.
    if (!(error instanceof TypeError)) throw error;
    throw new CopyError(
      'connection-lost',
      'The bench does not answer: the application’s server was stopped. Start it, then resume the copy.'
    );
  }
  if (response.ok) return response;
  if (response.status === 429)
    throw new WaitError(waitSchema.parse(await response.json()).milliseconds);
  if (response.status === 409) {
    const { fault, message, at } = faultSchema.parse(await response.json());
    throw new CopyError(fault, message, at);
  }
  throw new Error(`The bench answered with ${response.status}.`);
}

/** The way to a device of the bench. */
export function benchWire({ device, depth, kinds }: CopyOrder): CopyWire {
  const query = new URLSearchParams({ depth, ...(kinds ? { kinds: kinds.join('+') } : {}) });
  return {
    async list(): Promise<CopyListing> {
      const response = await asked(`/bench/${device}/listing?${query}`);
      return listingSchema.parse(await response.json());
    },
    async read(path, offset, length): Promise<CopyPart> {
      const place = new URLSearchParams(query);
      place.set('path', path);
      place.set('offset', String(offset));
      place.set('length', String(length));
      const response = await asked(`/bench/${device}/part?${place}`);
      return {
        bytes: new Uint8Array(await response.arrayBuffer()),
        sha256: response.headers.get('X-Part-Sha256') ?? ''
      };
    }
  };
}

/** Sends commands to the card in the reader. */
export const transmitToCard: Transmit = async (command) => {
  const response = await asked('/bench/card/exchange', {
    method: 'POST',
    headers: { 'Content-Type': 'application/octet-stream' },
    body: toHex(command)
  });
  const answer = fromHex(await response.text());
  if (!answer || answer.length < 2)
    throw new CopyError('read-error', 'The card answered with nothing that can be read.');
  return answer;
};
