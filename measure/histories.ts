import { execFileSync } from 'node:child_process';
import { existsSync, mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';

/** A database on disk as it lay at one moment, companions included. */
export interface LyingFiles {
  main: Uint8Array;
  wal: Uint8Array | undefined;
  journal: Uint8Array | undefined;
}

/**
 * Runs statements in the command-line SQLite and takes a copy of the files
 * while the connection is still open, as a phone's copy would be. The line
 * SNAPSHOT says when; without one the copy is taken after closing.
 */
export function runHistory(script: string): LyingFiles {
  const folder = mkdtempSync(join(tmpdir(), 'history-'));
  try {
    const db = join(folder, 'a.db');
    const copy = join(folder, 'b.db');
    const ends = ['', '-wal', '-journal'];
    const take = ends.map((end) => `if [ -e ${db}${end} ]; then cp ${db}${end} ${copy}${end}; fi`);
    const live = script.includes('SNAPSHOT');
    const input = script.replaceAll('SNAPSHOT', `.shell ${take.join('; ')}`);
    execFileSync('sqlite3', ['-batch', db], { input, stdio: ['pipe', 'ignore', 'inherit'] });
    const read = (end: string): Uint8Array | undefined => {
      const path = (live ? copy : db) + end;
      // A plain array: slices of a buffer would share its bytes.
      return existsSync(path) ? Uint8Array.from(readFileSync(path)) : undefined;
    };
    return { main: read('')!, wal: read('-wal'), journal: read('-journal') };
  } finally {
    rmSync(folder, { recursive: true });
  }
}

/** A value as a literal of a statement. */
export function literal(value: string | number | null): string {
  if (value === null) return 'NULL';
  return typeof value === 'number' ? String(value) : `'${value.replaceAll("'", "''")}'`;
}
