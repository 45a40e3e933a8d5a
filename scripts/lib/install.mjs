// Installs what a fresh machine lacks. Uses nothing but Node itself, because it runs before anything else is there.
import { execFileSync, spawnSync } from 'node:child_process';
import { createHash } from 'node:crypto';
import { existsSync, mkdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';

export const root = join(dirname(fileURLToPath(import.meta.url)), '..', '..');
const stamps = join(root, 'node_modules', '.cache', 'ombudsman');

export function say(text) {
  process.stderr.write(`${text}\n`);
}

export function run(command, args, options = {}) {
  const result = spawnSync(command, args, { stdio: 'inherit', cwd: root, ...options });
  if (result.error) throw result.error;
  if (result.status !== 0) process.exit(result.status ?? 1);
}

export function hashOf(files) {
  const hash = createHash('sha256');
  for (const file of files)
    hash
      .update(file)
      .update('\0')
      .update(readFileSync(join(root, file)));
  return hash.digest('hex');
}

/** Whether a step was done for the same inputs; `done()` remembers that it now is. */
export function stamp(name, key) {
  const file = join(stamps, name);
  return {
    fresh: existsSync(file) && readFileSync(file, 'utf8') === key,
    done() {
      mkdirSync(stamps, { recursive: true });
      writeFileSync(file, key);
    }
  };
}

/** Packages, as the lock file names them. */
export function ensureInstalled({ quiet = false } = {}) {
  const installed = () => stamp('installed', hashOf(['package.json', 'package-lock.json']));
  if (installed().fresh) return;
  alone(() => {
    // Whoever was first may have done it meanwhile.
    if (installed().fresh) return;
    say('Installing packages (npm ci) …');
    const stdio = quiet ? ['ignore', 2, 2] : 'inherit';
    run('npm', ['ci', '--no-audit', '--no-fund', '--loglevel=error'], { stdio });
    installed().done();
  });
}

/** Does what two commands that are started together must not do at once: of two installations each removes what the other writes. */
function alone(work) {
  const id = createHash('sha256').update(root).digest('hex').slice(0, 16);
  const lock = join(tmpdir(), `ombudsman-install-${id}`);
  while (!taken(lock)) Atomics.wait(new Int32Array(new SharedArrayBuffer(4)), 0, 0, 500);
  const release = () => rmSync(lock, { force: true });
  process.once('exit', release);
  try {
    work();
  } finally {
    process.off('exit', release);
    release();
  }
}

/** Whether the lock is this process's now; one whose process has ended is taken away for the next attempt. */
function taken(lock) {
  try {
    writeFileSync(lock, String(process.pid), { flag: 'wx' });
    return true;
  } catch (error) {
    if (error.code !== 'EEXIST') throw error;
  }
  try {
    process.kill(Number(readFileSync(lock, 'utf8')), 0);
  } catch (error) {
    if (error.code === 'ESRCH') rmSync(lock, { force: true });
    else if (error.code !== 'ENOENT' && error.code !== 'EPERM') throw error;
  }
  return false;
}

function onPath(name) {
  const found = spawnSync('which', [name], { encoding: 'utf8' });
  return found.status === 0 ? found.stdout.trim() : null;
}

/** Programs that the tests drive, from the system's own packages: command name to package. */
export function ensurePrograms(programs) {
  const missing = Object.entries(programs).filter(([command]) => !onPath(command));
  if (missing.length === 0) return;
  const packages = missing.map(([, name]) => name);
  say(`Installing ${packages.join(', ')} …`);
  const asRoot = process.getuid?.() === 0 ? [] : ['sudo'];
  try {
    const env = { ...process.env, DEBIAN_FRONTEND: 'noninteractive' };
    const quiet = { stdio: ['ignore', 'ignore', 'inherit'], env };
    const call = (args) =>
      execFileSync([...asRoot, ...args][0], [...asRoot, ...args].slice(1), quiet);
    call(['apt-get', 'update', '-qq']);
    call(['apt-get', 'install', '-y', '-qq', '--no-install-recommends', ...packages]);
  } catch (error) {
    say(`Could not install ${packages.join(', ')}: ${error.message}`);
    process.exit(1);
  }
}
