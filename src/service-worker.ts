/// <reference types="@sveltejs/kit" />
/// <reference no-default-lib="true" />
/// <reference lib="esnext" />
/// <reference lib="webworker" />
import { build, files, version } from '$service-worker';

/**
 * Keeps the application itself in the browser, so that it opens when its
 * server is gone. A newer version is fetched beside the one in use and waits
 * until no tab shows the old one, so no pass is ever cut off by it. Nothing of
 * a case is kept here.
 */
const worker = self as unknown as ServiceWorkerGlobalScope;
const CACHE = `ombudsman ${version}`;

/** Any address inside the application begins with the same page. */
const PAGE = '/';

/** Fonts for printing are large and many; they follow when everything else is there. */
const isLate = (path: string): boolean => path.endsWith('.ttf');
const all = [...build, ...files];
const kept = new Set(all);

worker.addEventListener('install', (event) => {
  event.waitUntil(keep([PAGE, ...all.filter((path) => !isLate(path))]));
});

worker.addEventListener('activate', (event) => {
  event.waitUntil(removeOld().then(() => worker.clients.claim()));
  keep(all.filter(isLate)).catch((error: unknown) =>
    console.warn('Fonts for printing are not kept for use without the server.', error)
  );
});

async function keep(paths: string[]): Promise<void> {
  const cache = await caches.open(CACHE);
  await cache.addAll(paths);
}

async function removeOld(): Promise<void> {
  for (const name of await caches.keys()) if (name !== CACHE) await caches.delete(name);
}

worker.addEventListener('fetch', (event) => {
  const { request } = event;
  const { origin, pathname } = new URL(request.url);
  if (request.method !== 'GET' || origin !== worker.location.origin) return;
  if (request.mode === 'navigate') event.respondWith(pageOf(request));
  else if (kept.has(pathname)) event.respondWith(fileOf(request, pathname));
});

/** The server's page while it answers, so that a newer version is seen. */
async function pageOf(request: Request): Promise<Response> {
  try {
    return await fetch(request);
  } catch (error) {
    const page = await caches.match(PAGE, { cacheName: CACHE });
    if (page) return page;
    throw error;
  }
}

async function fileOf(request: Request, path: string): Promise<Response> {
  return (await caches.match(path, { cacheName: CACHE })) ?? fetch(request);
}
