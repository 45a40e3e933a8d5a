import assert from 'node:assert/strict';
import { afterEach, test } from 'node:test';
import type { Component } from 'svelte';
import { drawn, mounted, pending, press, type Mounted } from '../testing/mounted.svelte';
import LineAttachment from './read/LineAttachment.svelte';
import RemoveSource from './sources/RemoveSource.svelte';
import StateChips from './read/StateChips.svelte';
import { reading } from '../state/reading.svelte';

type Any = Record<string, unknown>;
let shown: Mounted<Any> | null = null;
afterEach(() => {
  shown?.remove();
  document.body.innerHTML = '';
});

function show(component: unknown, props: Any): Mounted<Any> {
  shown = mounted(component as Component<Any>, props);
  return shown;
}

const NONE = { live: 0, held: 0, recovered: 0, fragment: 0, earlier: 0 };

test('a press hides a state, one with shift shows it alone, and everything comes back', async () => {
  show(StateChips, { totals: { ...NONE, live: 5, held: 2, recovered: 3 } });
  assert.doesNotMatch(shown!.text(), /Show everything/);
  press(/live/);
  await drawn();
  assert.ok(!reading.states.includes('live'));
  assert.match(shown!.text(), /Show everything/);
  press(/recovered\s+3/, { shiftKey: true });
  await drawn();
  assert.deepEqual(reading.states, ['recovered']);
  press('Show everything');
  await drawn();
  assert.equal(reading.states.length, 5);
  assert.doesNotMatch(shown!.text(), /Show everything/);
});

test('a joined file that cannot be removed says why, and stays', async () => {
  const asked: unknown[] = [];
  const gone = pending<void>();
  const joinFile = (id: string, sha256: string | null): Promise<void> => {
    asked.push([id, sha256]);
    return gone.answer;
  };
  const file = {
    ...{ id: 'a1', name: 'slip.pdf', mime: 'application/pdf', bytes: 10, missing: false },
    ...{ byHand: true, thumbnail: null, sourceId: 's1', path: 'slip.pdf' }
  };
  const open = { failure: null, desk: { joinFile } };
  show(LineAttachment, { open, file, files: [file], tab: 0 });
  assert.match(shown!.text(), /slip\.pdf, PDF document · 10 bytes/);
  press('Remove it');
  gone.fail('the storage is full');
  await drawn();
  assert.deepEqual(asked, [['a1', null]]);
  assert.equal(
    (shown!.props.open as { failure: string }).failure,
    'The file was not removed: the storage is full'
  );
  assert.match(shown!.text(), /joined by hand/);
});

/** The question before a source is removed, with what the worker answers. */
function asking(toll: Promise<Any>, remove: () => Promise<void>): { failure: string | null } {
  const open = { failure: null, desk: { sources: { toll: () => toll, remove } } };
  show(RemoveSource, { shown: true, source: { id: 's1', name: 'Phone' }, open });
  return shown!.props.open as typeof open;
}

const TOLL = {
  messages: 12,
  calls: 1,
  contacts: 0,
  files: 0,
  exhibits: 3,
  redactions: 0,
  notes: 0
};

test('what goes along with a source is told before it is removed', async () => {
  const open = asking(Promise.resolve(TOLL), () => Promise.resolve());
  await drawn();
  const said = (document.body.textContent ?? '').replace(/\s+/g, ' ');
  assert.match(said, /12 messages and 1 call/);
  assert.match(said, /3 selected records/);
  assert.doesNotMatch(said, /0 /);
  assert.equal(open.failure, null);
});

test('a removal that fails says why; so does a toll that nobody can count', async () => {
  let open = asking(Promise.resolve(TOLL), () => Promise.reject(new Error('another tab has it')));
  await drawn();
  press(/^\s*Remove source/);
  await drawn();
  assert.equal(open.failure, 'another tab has it');
  shown!.remove();
  open = asking(Promise.reject(new Error('the worker is gone')), () => Promise.resolve());
  await drawn();
  assert.equal(open.failure, 'the worker is gone');
});
