// Builds the application with the demo evidence and serves it on this machine.
import { spawn } from 'node:child_process';
import { ensureBuilt } from './lib/build.mjs';
import { root, say } from './lib/install.mjs';
import { prepare } from './prepare.mjs';

prepare();
ensureBuilt();

const host = process.env.HOST ?? '127.0.0.1';
const port = process.env.PORT ?? '4180';
const server = spawn(process.execPath, ['scripts/serve.mjs'], {
  cwd: root,
  stdio: 'inherit',
  env: { ...process.env, HOST: host, PORT: port }
});
server.on('spawn', () =>
  say(
    `Ombudsman is at http://${host}:${port}/ – the casebook offers the demo case. Stop with Ctrl+C.`
  )
);
server.on('exit', (code) => process.exit(code ?? 0));
for (const signal of ['SIGINT', 'SIGTERM']) process.on(signal, () => server.kill(signal));
