import { HelperThread, toldOf, type HelperTask } from '$core/examine';
import { BlobSource } from './blob-source';
import type { BlobHandle } from './helpers';

const thread = new HelperThread((handle) => {
  const { blob, name } = handle as BlobHandle;
  return new BlobSource(blob, name);
});

self.onmessage = ({ data }: MessageEvent<HelperTask>) => {
  const { told, transfer } = toldOf(() => thread.answer(data));
  self.postMessage(told, { transfer });
};
