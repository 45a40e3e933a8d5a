import assert from 'node:assert/strict';
import { afterEach, test } from 'node:test';
import type { Component } from 'svelte';
import {
  drawn,
  mounted,
  named,
  pending,
  press,
  tick,
  type,
  type Mounted
} from '../testing/mounted.svelte';
import DayField from '../ui/DayField.svelte';
import LockField from './sources/LockField.svelte';
import NoteHere from '../ui/NoteHere.svelte';
import PassSetup from './sources/PassSetup.svelte';
import UndecidedFiles from './produce/UndecidedFiles.svelte';

type Any = Record<string, unknown>;
let shown: Mounted<Any> | null = null;
afterEach(() => {
  shown?.remove();
  document.body.innerHTML = '';
});

function show(component: unknown, props: Any): Mounted<Any> {
  shown?.remove();
  shown = mounted(component as Component<Any>, props);
  return shown;
}

test('a day is typed in any order that cannot be mistaken; anything else says what is wrong', async () => {
  const days: (string | null)[] = [];
  show(DayField, {
    ...{ id: 'day', value: null, label: 'Day', min: '2026-03-01', max: '2026-03-31' },
    onchange: (day: string | null) => days.push(day)
  });
  const cases: [typed: string, day: string | null, problem: RegExp | null][] = [
    ['12 Mar 2026', '2026-03-12', null],
    ['2026-03-13', '2026-03-13', null],
    ['14.3.2026', '2026-03-14', null],
    ['3/4/2026', null, /Write the day like/],
    ['28 Feb 2026', null, /Not before 1 Mar 2026/],
    ['1 Apr 2026', null, /Not after 31 Mar 2026/],
    ['30 Feb 2026', null, /Write the day like/]
  ];
  for (const [typed, day, problem] of cases) {
    days.length = 0;
    (document.querySelector('#day') as HTMLInputElement).value = typed;
    document.querySelector('#day')!.dispatchEvent(new Event('change', { bubbles: true }));
    await drawn();
    const said = document.querySelector('[role=alert]')?.textContent ?? '';
    assert.deepEqual(days, day === null ? [] : [day], typed);
    if (problem === null) assert.equal(said, '', typed);
    else assert.match(said, problem, typed);
  }
});

/** The setup of an examination of one source; what was asked of the worker. */
function setup(source: Any, examine: () => Promise<void> = () => Promise.resolve()): Any[][] {
  const asked: Any[][] = [];
  const open = {
    failure: null,
    summary: { record: { zone: 'Europe/Oslo' } },
    giveTypedKeys: () => Promise.resolve(),
    desk: {
      sources: {
        examine: (...args: Any[]) => {
          asked.push(args);
          return examine();
        }
      }
    }
  };
  const given = { id: 's1', name: 'Phone', caseId: 'c', stores: [], isAway: false, glance: null };
  show(PassSetup, { open, source: { ...given, pass: { state: 'none' }, ...source } });
  return asked;
}

const isChecked = (words: string): boolean =>
  (named(words, 'input[type=radio]') as HTMLInputElement).checked;

test('an examination is asked for with its depth, kinds, and days from midnight to midnight of the zone', async () => {
  const asked = setup({});
  tick('Everything, raw data too');
  tick(/^\s*Calls/);
  type('From', '29 Mar 2026');
  type(/^\s*To\s*$|^ *To/, '29 Mar 2026');
  type('Only with these numbers', '+47 900 00 001; anna@quay.example, ');
  press(/^\s*Examine\s*$/);
  await drawn();
  const [[id, depth, want] = []] = asked as [string, string, Any][];
  assert.deepEqual([id, depth], ['s1', 'whole']);
  assert.deepEqual(want!.kinds, ['messages', 'contacts', 'media', 'files']);
  // The clocks go forward on that day: it has 23 hours.
  assert.equal(want!.from, Date.parse('2026-03-28T23:00:00Z'));
  assert.equal(want!.to, Date.parse('2026-03-29T22:00:00Z') - 1);
  assert.equal((want!.addresses as string[]).length, 2);
});

test('what the quick look says sets the depth until somebody has chosen one', async () => {
  setup({});
  assert.ok(isChecked('Existing and deleted'));
  (shown!.props.source as Any).glance = { depth: 'whole' };
  await drawn();
  assert.ok(isChecked('Everything, raw data too'));
  tick('Existing records');
  (shown!.props.source as Any).glance = { depth: 'freed' };
  await drawn();
  assert.ok(isChecked('Existing records'));
  // Another source begins with its own.
  shown!.props.source = { ...(shown!.props.source as Any), id: 's2', glance: { depth: 'whole' } };
  await drawn();
  assert.ok(isChecked('Everything, raw data too'));
});

test('an examination that cannot begin says why; none begins twice, or of evidence that is not here', async () => {
  setup({}, () => Promise.reject(new Error('another tab has this case')));
  press(/^\s*Examine\s*$/);
  await drawn();
  assert.equal((shown!.props.open as Any).failure, 'another tab has this case');
  for (const source of [{ pass: { state: 'running', depth: 'freed' } }, { isAway: true }]) {
    setup(source);
    assert.ok((document.querySelector('button.go') as HTMLButtonElement).disabled);
  }
});

test('a password is kept while it is typed, tried, and told to be wrong', async () => {
  const typedKeys = new Map<string, string>();
  const tried: string[][] = [];
  const unlock = (_: string, keys: string[]): Promise<void> => {
    tried.push(keys);
    return keys[0] === 'summer' ? Promise.resolve() : Promise.reject(new Error('no room'));
  };
  const open = { failure: null, typedKeys, desk: { sources: { unlock } } };
  const pack = { path: 'backup', lock: { wants: 'password', reason: 'no-key' } };
  show(LockField, { sourceId: 's1', pack, open, ontyped: () => undefined });
  assert.match(shown!.text(), /Locked\. It is encrypted/);
  const field = document.querySelector<HTMLInputElement>('input.field')!;
  const enter = async (text: string): Promise<void> => {
    field.value = text;
    field.dispatchEvent(new Event('input', { bubbles: true }));
    document.querySelector('form')!.dispatchEvent(new Event('submit', { cancelable: true }));
    await drawn();
  };
  field.value = 'sum';
  field.dispatchEvent(new Event('input', { bubbles: true }));
  assert.equal(typedKeys.get('s1'), 'sum');
  await enter('winter');
  assert.equal((shown!.props.open as Any).failure, 'no room');
  await enter('summer');
  assert.deepEqual(tried, [['winter'], ['summer']]);
  assert.equal(field.value, '');
  assert.equal(typedKeys.has('s1'), false);
  shown!.props.pack = { ...pack, lock: { wants: 'password', reason: 'wrong-key' } };
  await drawn();
  assert.match(shown!.text(), /The password does not open it\./);
});

test('a note belongs to the message that is shown, whenever it arrives; one that is not kept is told', async () => {
  const first = pending<Any>();
  const second = pending<Any>();
  const kept: Any[] = [];
  const notes = {
    labels: () => Promise.resolve([['money', 3]]),
    of: (id: string) => (id === 'm1' ? first.answer : second.answer),
    keep: (note: Any) => {
      kept.push(note);
      return note.text === 'lost' ? Promise.reject(new Error('disk full')) : Promise.resolve();
    }
  };
  show(NoteHere, { open: { failure: null, desk: { notes } }, of: 'm1', kind: 'line' });
  shown!.props.of = 'm2';
  await drawn();
  second.come({ text: 'the second', labels: [] });
  first.come({ text: 'the first', labels: ['old'] });
  await drawn();
  const area = named('Note on this message', 'textarea') as HTMLTextAreaElement;
  assert.equal(area.value, 'the second');
  press('+ money');
  await drawn();
  assert.deepEqual(kept.at(-1), { of: 'm2', kind: 'line', text: 'the second', labels: ['money'] });
  type('Note on this message', 'lost');
  await drawn();
  assert.equal((shown!.props.open as Any).failure, 'The note was not kept: disk full');
});

test('records are made when each file with covered words was decided on, and not before', async () => {
  const files = ['a', 'b'].map((id) => ({
    ...{ id, name: `${id}.txt`, codes: ['PRIV'], where: '' },
    isUnread: id === 'b'
  }));
  const decided: string[][] = [];
  show(UndecidedFiles, {
    files,
    oncancel: () => undefined,
    ondecide: (covered: { id: string }[], along: { id: string }[]) =>
      decided.push(
        covered.map(({ id }) => id),
        along.map(({ id }) => id)
      )
  });
  await drawn();
  assert.match(document.body.textContent ?? '', /b\.txt\s+cannot be read inside/);
  const button = named(/Produce records/) as HTMLButtonElement;
  const choices = [...document.querySelectorAll<HTMLInputElement>('input[type=radio]')];
  const choose = (at: number): void => {
    choices[at]!.checked = true;
    choices[at]!.dispatchEvent(new Event('change', { bubbles: true }));
  };
  assert.ok(button.disabled);
  choose(0);
  await drawn();
  assert.ok(button.disabled);
  choose(3);
  await drawn();
  assert.ok(!button.disabled);
  press(/Produce records/);
  assert.deepEqual(decided, [['a'], ['b']]);
});
