import { error, json } from '@sveltejs/kit';
import { z } from 'zod';
import { BenchRefusal, type BenchDevice } from '$bench/index';
import { BENCH } from '$demo/devices';
import { COPY_DEPTHS, CopyError, WaitError } from '$core/acquire';

/** @throws 404 where nothing of that name is on the bench */
export function deviceOf(id: string): BenchDevice {
  const device = BENCH.find((one) => one.id === id);
  if (!device) error(404, `There is no ${id} on the bench.`);
  return device;
}

const requestSchema = z.object({
  depth: z.enum(COPY_DEPTHS),
  kinds: z
    .string()
    .nullable()
    .transform((text) => (text === null ? null : text.split('+')))
});

/** Depth and kinds of a question. @throws 400 */
export function requestOf({ searchParams }: URL): z.infer<typeof requestSchema> {
  const told = { depth: searchParams.get('depth'), kinds: searchParams.get('kinds') };
  const checked = requestSchema.safeParse(told);
  if (!checked.success) error(400, 'The question names an unknown depth.');
  return checked.data;
}

/** Answers, or says in the terms of the bench why not. */
export async function answered(work: () => Promise<Response>): Promise<Response> {
  try {
    return await work();
  } catch (problem) {
    if (problem instanceof WaitError)
      return json({ milliseconds: problem.milliseconds }, { status: 429 });
    if (problem instanceof CopyError) {
      const { fault, message, at } = problem;
      return json({ fault, message, at }, { status: 409 });
    }
    if (problem instanceof BenchRefusal)
      return json({ message: problem.message, reason: problem.reason }, { status: 409 });
    throw problem;
  }
}
