import { createHash } from 'node:crypto';
import { readFileSync } from 'node:fs';
import { madeCase, type MadeCase } from './production-case';

const SAMPLES = new URL('./samples/', import.meta.url);

/** A file as a real writer of its format made it. */
export function sample(name: string): Uint8Array {
  return new Uint8Array(readFileSync(new URL(name, SAMPLES)));
}

/** Pictures; each is that of `pngOf(96, 64, 5)`. */
export const PICTURES = [
  ['picture.heic', 'image/heic'],
  ['picture.avif', 'image/avif'],
  ['picture.webp', 'image/webp']
] as const;

/** Recordings of a second at 440 Hz, with their samples a second. */
export const SOUNDS = [
  ['voice.amr', 'audio/amr', 8000],
  ['voice-wide.amr', 'audio/amr', 16_000],
  ['voice.ogg', 'audio/ogg', 48_000]
] as const;

/** A case whose first messages carry the samples. */
export function caseWithSamples(broken: boolean): MadeCase {
  const made = madeCase({ messages: 20, pictureEvery: 0, hard: false });
  for (const [i, [name, mime]] of [...PICTURES, ...SOUNDS].entries()) {
    const bytes = broken ? sample(name).slice(0, 40) : sample(name);
    const sha256 = createHash('sha256').update(bytes).digest('hex');
    made.files.set(sha256, bytes);
    const message = made.findings.messages[i]!;
    const id = `${message.id}/a1`;
    message.attachments.push(id);
    made.findings.attachments.push({
      id,
      message: message.id,
      name,
      mime,
      bytes: bytes.length,
      sha256,
      state: 'live',
      path: name,
      width: null,
      height: null,
      seconds: null,
      thumbnail: null
    });
  }
  return made;
}
