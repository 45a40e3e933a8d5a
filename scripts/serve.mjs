// Serves the built application on this machine, with the headers that keep it to itself.
import { createServer } from 'node:http';
import { isIP } from 'node:net';

const host = process.env.HOST ?? '127.0.0.1';
const port = Number(process.env.PORT ?? '4180');
// The built server reads its own settings when it is loaded. Only a store that is put back into a
// simulated handset is ever sent to it.
process.env.BODY_SIZE_LIMIT ??= '512M';
const { handler } = await import('../build/handler.js');

// Workers and other files get their policy here; pages bring a stricter one of their own.
const POLICY = [
  "default-src 'self'",
  "script-src 'self' 'wasm-unsafe-eval'",
  "style-src 'self' 'unsafe-inline'",
  "img-src 'self' data: blob:",
  "font-src 'self' data:",
  "media-src 'self' blob:",
  "worker-src 'self'",
  "connect-src 'self'",
  "object-src 'none'",
  "base-uri 'none'",
  "frame-ancestors 'self'"
].join('; ');

const HEADERS = {
  'Content-Security-Policy': POLICY,
  'X-Content-Type-Options': 'nosniff',
  'Referrer-Policy': 'no-referrer',
  'Cross-Origin-Opener-Policy': 'same-origin',
  'Cross-Origin-Embedder-Policy': 'require-corp',
  'Cross-Origin-Resource-Policy': 'same-origin'
};

/** Names of this machine; another name that leads here is somebody else's page asking. */
function isOwn(name) {
  const bare = name.replace(/:\d+$/, '').replace(/^\[|\]$/g, '');
  return bare === 'localhost' || bare === host || isIP(bare) !== 0;
}

const server = createServer((request, response) => {
  for (const [name, value] of Object.entries(HEADERS)) response.setHeader(name, value);
  if (!isOwn(request.headers.host ?? '')) {
    response.writeHead(421, { 'Content-Type': 'text/plain; charset=utf-8' });
    response.end('This application answers only under the name of the machine that it runs on.\n');
    return;
  }
  handler(request, response, () => {
    response.writeHead(404, { 'Content-Type': 'text/plain; charset=utf-8' });
    response.end('There is nothing here.\n');
  });
});

server.listen(port, host);
for (const signal of ['SIGINT', 'SIGTERM'])
  process.on(signal, () => {
    server.close(() => process.exit(0));
    server.closeAllConnections();
  });
