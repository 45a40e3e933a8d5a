import { dev } from '$app/environment';

/** Milliseconds of quiet after which the application is fetched to be kept: evidence goes first. */
const QUIET = 4000;

let isAsked = false;

/**
 * Has the browser keep the application, so that it opens without its server,
 * once nothing has run for a while. The result stops the waiting.
 */
export function keepWhenQuiet(): () => void {
  if (isAsked || dev || !('serviceWorker' in navigator)) return () => undefined;
  const timer = setTimeout(() => {
    isAsked = true;
    navigator.serviceWorker.register('/service-worker.js').catch((error: unknown) => {
      isAsked = false;
      console.warn('The application could not be kept for use without its server.', error);
    });
  }, QUIET);
  return () => clearTimeout(timer);
}
