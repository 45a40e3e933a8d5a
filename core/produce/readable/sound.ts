import decodeAmr from '@audio/decode-amr';
import decodeOpus from '@audio/decode-opus';
import { UnreadableError, type Readable } from './types';

interface Sound {
  channelData: Float32Array[];
  sampleRate: number;
}

/** A recording of an AMR file (RFC 4867, section 5), narrow or wide. */
export async function readAmr(bytes: Uint8Array): Promise<Readable> {
  return wave(await decodeAmr(bytes));
}

/** A recording of an Ogg file with Opus (RFC 7845). */
export async function readOpus(bytes: Uint8Array): Promise<Readable> {
  return wave(await decodeOpus(bytes));
}

const HEAD = 44;

/** Samples of 16 bits in a RIFF file, format 1. */
function wave({ channelData, sampleRate }: Sound): Readable {
  const [first] = channelData;
  if (!first || first.length === 0) throw new UnreadableError('it holds no sound');
  const channels = channelData.length;
  const size = first.length * channels * 2;
  const view = new DataView(new ArrayBuffer(HEAD + size));
  const word = (at: number, text: string): void => {
    for (let i = 0; i < 4; i++) view.setUint8(at + i, text.charCodeAt(i));
  };
  word(0, 'RIFF');
  view.setUint32(4, HEAD - 8 + size, true);
  word(8, 'WAVE');
  word(12, 'fmt ');
  view.setUint32(16, 16, true);
  view.setUint16(20, 1, true);
  view.setUint16(22, channels, true);
  view.setUint32(24, sampleRate, true);
  view.setUint32(28, sampleRate * channels * 2, true);
  view.setUint16(32, channels * 2, true);
  view.setUint16(34, 16, true);
  word(36, 'data');
  view.setUint32(40, size, true);
  for (const [c, samples] of channelData.entries())
    for (const [i, value] of samples.entries())
      view.setInt16(HEAD + (i * channels + c) * 2, Math.max(-1, Math.min(1, value)) * 32767, true);
  return { bytes: new Uint8Array(view.buffer), mime: 'audio/wav', ending: 'wav' };
}
