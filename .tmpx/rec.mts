import { readFileSync } from 'node:fs';
import { fromBytes } from './src.mts';
import { recoverTables } from '../core/sqlite/index';
import { finish } from '../core/tests/databases';
const db = fromBytes(new Uint8Array(readFileSync(`/tmp/ind/db/${process.argv[2]}.db`))) as any;
const names = process.argv.slice(3);
for (const t of finish(recoverTables(db, { wanted: (t: any) => names.includes(t.name), freed: true })) as any[]) {
  const rows = [...t.freed];
  console.log(t.schema.name, 'freed', rows.length, 'numbered', rows.filter((r: any) => r.rowid !== null).length);
  for (const r of rows.slice(0, 80)) console.log(r.rowid, r.inferred, JSON.stringify(r.values, (k, v) => (typeof v === 'bigint' ? String(v) : v)).slice(0, 100), r.lost, r.proofs.map((p: any) => `${p.method}@${p.page}:${p.offset}`).join());
}
