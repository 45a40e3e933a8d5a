/** Longer side of a poster, in pixels. */
const SIDE = 240;
/** Seconds into a video: its first picture is often black. */
const AT = 0.5;
/** Milliseconds after which a video that shows nothing is given up. */
const PATIENCE = 8000;
const MOST_KEPT = 300;

const kept = new Map<string, Promise<Blob | null>>();
/** Videos are opened one after another: each needs a decoder of its own. */
let last: Promise<unknown> = Promise.resolve();

/**
 * A small picture from near the beginning of a video; null where the browser cannot show it.
 * @param key names the video among those of all cases.
 */
export function posterOf(key: string, blob: () => Promise<Blob | null>): Promise<Blob | null> {
  const known = kept.get(key);
  if (known) return known;
  const video = last.then(blob);
  const made = video.then((found) => found && draw(found));
  kept.set(key, made);
  // Bytes that could not be had are asked for again: a key may have been given since.
  const forget = (): void => void kept.delete(key);
  video.then((found) => found ?? forget(), forget);
  // Whoever asked hears of a failure; the next video does not wait for it.
  last = made.catch(() => null);
  const [oldest] = kept.keys();
  if (kept.size > MOST_KEPT && oldest !== undefined) kept.delete(oldest);
  return made;
}

async function draw(blob: Blob): Promise<Blob | null> {
  const url = URL.createObjectURL(blob);
  const video = document.createElement('video');
  video.muted = true;
  video.preload = 'auto';
  try {
    if (!(await isShown(video, url))) return null;
    const scale = Math.min(1, SIDE / Math.max(video.videoWidth, video.videoHeight));
    const canvas = new OffscreenCanvas(
      Math.max(1, Math.round(video.videoWidth * scale)),
      Math.max(1, Math.round(video.videoHeight * scale))
    );
    canvas.getContext('2d')!.drawImage(video, 0, 0, canvas.width, canvas.height);
    return await canvas.convertToBlob({ type: 'image/webp', quality: 0.8 });
  } finally {
    video.removeAttribute('src');
    video.load();
    URL.revokeObjectURL(url);
  }
}

/** Waits for a picture of the video; false where none comes. */
function isShown(video: HTMLVideoElement, url: string): Promise<boolean> {
  return new Promise((resolve) => {
    const end = (is: boolean) => () => resolve(is && video.videoWidth > 0);
    setTimeout(end(false), PATIENCE);
    video.onerror = end(false);
    video.onseeked = end(true);
    video.onloadeddata = () =>
      (video.currentTime = Math.min(AT, Number.isFinite(video.duration) ? video.duration / 2 : AT));
    video.src = url;
  });
}
