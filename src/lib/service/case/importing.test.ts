import assert from 'node:assert/strict';
import { createHash } from 'node:crypto';
import { test } from 'node:test';
import { brokenEntry } from '$core/custody';
import { emptyDevice, emptyInside, type Message } from '$core/records';
import { messageRecord } from '../../../../core/tests/records';
import { carriedOf } from '../../storage/carried';
import { custodyLog, logAct } from '../../storage/custody';
import { changeExhibits, keptExhibits } from '../../storage/exhibits';
import { keepIntake, keptIntake } from '../../storage/intake';
import { keepNotes, keptNotes } from '../../storage/notes';
import { openStorage } from '../../storage/open';
import type { CaseRecord, SourceRecord } from '../../storage/schema';
import { caseFileBlob } from '../produce/case-file';
import { importCase } from './importing';
import { Keeper } from '../lines/keeping';
import { Shelf } from '../evidence/shelf';
import { findingsOf, keptCase, shownIds, SOMEONE } from '../tests/kept-case';

const STORE = 's1.aa';
const EVIDENCE = 'the bytes of the phone';
const SUM = createHash('sha256').update(EVIDENCE).digest('hex');

Object.defineProperty(globalThis, 'navigator', {
  value: { storage: { estimate: () => Promise.resolve({}) } },
  configurable: true
});

function message(n: number): Message {
  const place = { id: `${STORE}/m/${n}`, store: STORE, thread: `${STORE}/t/x`, sender: SOMEONE };
  return messageRecord({ ...place, sentAt: 1000 * n, body: `line ${n}` });
}

/** A case with everything in it that can be typed, chosen and covered; its record and its file. */
async function savedCase(): Promise<{ record: CaseRecord; file: Blob }> {
  const all = Array.from({ length: 50 }, (_, i) => message(i + 1));
  const { keeper, record: made } = await keptCase([findingsOf(STORE, { messages: all })]);
  // A line that was found later has a higher number than those around it.
  await keeper.keep('s1', findingsOf(STORE, { messages: [...all, message(0)] }), made, {
    isFinal: true
  });
  const db = await openStorage();
  const kept = (await db.get('cases', made.id))!;
  const record = {
    ...kept,
    name: 'The ferry',
    client: 'Ida',
    names: { [SOMEONE]: 'Mira' },
    lastSource: 7
  };
  await db.put('cases', record);
  const source = (await db.get('sources', `${record.id}/s1`))!;
  const sourceRecord: SourceRecord = {
    ...source,
    name: 'Phone of Ida',
    isNamed: true,
    localZone: 'Asia/Tokyo',
    files: [{ path: 'phone.db', bytes: EVIDENCE.length, sha256: SUM }],
    sum: SUM,
    source: {
      ...{ id: 's1', name: 'phone.db', kind: 'database', bytes: EVIDENCE.length, sha256: SUM },
      ...{ parts: [], depth: 'freed', device: emptyDevice(), notes: [], inside: emptyInside() }
    }
  };
  await db.put('sources', sourceRecord);
  await changeExhibits(record.id, () => ({
    lists: {
      current: 'l',
      lists: [
        {
          ...{ id: 'l', name: 'Exhibits', order: 'hand' },
          entries: [
            {
              ...{ id: 'e', kind: 'lines', name: null, ids: [`${STORE}/m/3`], context: 2 },
              ...{ from: null, to: null, isClosed: false }
            }
          ]
        }
      ]
    },
    redactions: [{ message: `${STORE}/m/3`, from: 0, to: 4, code: 'PRIV' }],
    reasons: [{ code: 'PRIV', reason: 'private' }],
    letGo: [`${STORE}/a/1`]
  }));
  await keepIntake({ ...(await keptIntake(record.id)), done: ['check/1'] });
  await keepNotes([
    {
      caseId: record.id,
      of: `${STORE}/m/4`,
      kind: 'line',
      text: 'odd',
      labels: ['x'],
      changedAt: 1
    }
  ]);
  await logAct(record.id, 'case opened', { name: record.name });
  const carried = await carriedOf(record, [sourceRecord]);
  const notes = await keptNotes(record.id);
  const sources = [{ ...sourceRecord.source!, name: 'Phone of Ida', parts: sourceRecord.files }];
  const file = await caseFileBlob(keeper.index, record, sources, [], notes, carried);
  return { record, file };
}

async function numbersOf({ index }: Keeper): Promise<Record<string, number>> {
  const found: Record<string, number> = {};
  for (const id of await shownIds(index)) found[id] = (await index.get(id))!.line;
  return found;
}

test('a case that is handed over has everything that it had', async () => {
  const { record, file } = await savedCase();
  const seen: number[] = [];
  const result = await importCase(file, 'ferry.case.json', (fraction) => seen.push(fraction));
  assert.ok(result.ok);
  const { caseId } = result;
  const db = await openStorage();
  const imported = (await db.get('cases', caseId))!;
  const { name, client, names, zone, lastLine, lastSource } = imported;
  assert.deepEqual(
    { name, client, names, zone, lastLine, lastSource },
    {
      ...{ name: 'The ferry', client: 'Ida', names: { [SOMEONE]: 'Mira' }, zone: record.zone },
      ...{ lastLine: 51, lastSource: 7 }
    }
  );
  assert.equal(imported.isComing, undefined);
  const before = await keptExhibits(record.id);
  const after = await keptExhibits(caseId);
  for (const key of ['lists', 'redactions', 'reasons', 'letGo'] as const)
    assert.deepEqual(after[key], before[key], key);
  assert.deepEqual((await keptIntake(caseId)).done, ['check/1']);
  assert.deepEqual(
    (await keptNotes(caseId)).map(({ of, text }) => [of, text]),
    [[`${STORE}/m/4`, 'odd']]
  );
  const log = await custodyLog(caseId);
  assert.equal(brokenEntry(log), null);
  assert.deepEqual(
    log.map(({ what }) => what),
    ['case opened', 'case imported']
  );
  assert.deepEqual(
    await numbersOf(await Keeper.open(caseId)),
    await numbersOf(await Keeper.open(record.id))
  );
  assert.ok(seen.every((fraction, i) => i === 0 || fraction >= seen[i - 1]!) && seen.length > 2);
  const [source] = await new Shelf(caseId).sources();
  assert.equal(source!.isAway, true);
  assert.deepEqual([source!.name, source!.localZone], ['Phone of Ida', 'Asia/Tokyo']);
});

test('evidence that is added meets the source that came without it, whatever it is called', async () => {
  const { file } = await savedCase();
  const result = await importCase(file, 'ferry.case.json');
  assert.ok(result.ok);
  const shelf = new Shelf(result.caseId);
  const add = async (name: string, text: string): Promise<[string, boolean]> => {
    const added = await shelf.add(name, [{ path: name, blob: new Blob([text]) }], () => undefined);
    assert.ok(added.ok);
    return [added.source.id, added.met];
  };
  assert.deepEqual(await add('copy.db', EVIDENCE), ['s1', true]);
  const [met] = await shelf.sources();
  assert.equal(met!.isAway, false);
  const [blob] = await shelf.filesOf(met!);
  assert.equal(await blob!.text(), EVIDENCE);
  assert.deepEqual(await add('other.db', 'other bytes'), ['s8', false]);
});

test('what is no case file is refused with its place, and nothing is left of it', async () => {
  const { file } = await savedCase();
  const text = await file.text();
  const before = (await (await openStorage()).getAll('cases')).length;
  const refused: [string, RegExp][] = [
    ['tea', /is not a case file: it does not hold JSON/],
    [text.slice(0, -50), /is not a case file: it is cut off/],
    [text.replace('"version":2', '"version":9'), /version 1 or 2: at version/],
    [text.replace(/"zone":"[^"]+"/, '"zone":"Mars/Base"'), /time zone “Mars\/Base”/],
    [text.replace('"certainty":100', '"certainty":"all"'), /at messages\.certainty/],
    [text.replace('"code":"PRIV"', '"code":""'), /at carried\.redactions/]
  ];
  for (const [bad, words] of refused) {
    const result = await importCase(new Blob([bad]), 'x.json');
    assert.ok(!result.ok && words.test(result.reason), result.ok ? 'taken' : result.reason);
  }
  const cases = await (await openStorage()).getAll('cases');
  assert.equal(cases.filter(({ isComing }) => !isComing).length, before);
});
